/** Several conversations chosen at once, each as far as it was seen: one by one, up to a row, or all that match. */
import { computed, ref, watch, type Ref } from 'vue'
import type { Aim } from './useActs'
import type { Queue } from './useQueue'

export function useSelection(
  { rows, isAcross, fill }: Pick<Queue, 'rows' | 'isAcross' | 'fill'>,
  openId: Ref<number | null>,
  resetOn: () => unknown,
) {
  const selected = ref<Map<number, number>>(new Map())
  let anchor: number | null = null
  const seqOf = (id: number): number => rows.value.find((r) => r.id === id)?.seq ?? 0

  function toggle(id: number | null): void {
    if (id === null) return
    const next = new Map(selected.value)
    if (!next.delete(id)) next.set(id, seqOf(id))
    selected.value = next
    anchor = id
  }
  /** Everything between the last chosen row (or the open one) and this. */
  async function extendTo(id: number): Promise<void> {
    const start = anchor ?? openId.value ?? id
    if (isAcross(start, id)) await fill()
    if (isAcross(start, id)) return
    const from = rows.value.findIndex((r) => r.id === start)
    const to = rows.value.findIndex((r) => r.id === id)
    if (from < 0 || to < 0) return toggle(id)
    const [low, high] = from < to ? [from, to] : [to, from]
    const between = rows.value.slice(low, high + 1).map((r): [number, number] => [r.id, r.seq])
    selected.value = new Map([...selected.value, ...between])
    anchor = id
  }
  function set(aims: Aim[]): void {
    selected.value = new Map(aims.map((a) => [a.id, a.seq]))
  }
  function clear(): void {
    selected.value = new Map()
    anchor = null
  }
  watch(resetOn, clear)
  return {
    selected: computed(() => new Set(selected.value.keys())),
    ids: computed(() => [...selected.value.keys()]),
    aims: computed<Aim[]>(() => [...selected.value].map(([id, seq]) => ({ id, seq }))),
    toggle,
    extendTo,
    set,
    clear,
  }
}
