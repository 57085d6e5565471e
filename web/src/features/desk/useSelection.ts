/** Several conversations chosen at once: one by one, up to a row, or all that match. */
import { computed, ref, watch, type Ref } from 'vue'
import type { Row } from '@/api/types'

export function useSelection(rows: Ref<Row[]>, openId: Ref<number | null>, resetOn: () => unknown) {
  const selected = ref<Set<number>>(new Set())
  let anchor: number | null = null

  function toggle(id: number | null): void {
    if (id === null) return
    const next = new Set(selected.value)
    if (!next.delete(id)) next.add(id)
    selected.value = next
    anchor = id
  }
  /** Everything between the last chosen row (or the open one) and this. */
  function extendTo(id: number): void {
    const from = rows.value.findIndex((r) => r.id === (anchor ?? openId.value ?? id))
    const to = rows.value.findIndex((r) => r.id === id)
    if (from < 0 || to < 0) return toggle(id)
    const [low, high] = from < to ? [from, to] : [to, from]
    selected.value = new Set([...selected.value, ...rows.value.slice(low, high + 1).map((r) => r.id)])
    anchor = id
  }
  function set(ids: number[]): void {
    selected.value = new Set(ids)
  }
  function clear(): void {
    selected.value = new Set()
    anchor = null
  }
  watch(resetOn, clear)
  return { selected, ids: computed(() => [...selected.value]), toggle, extendTo, set, clear }
}
