/** Going from one conversation of the queue to another: by keys, and by itself once one is done with. */
import { computed, type Ref } from 'vue'
import type { Act, Move } from '@/api/types'
import type { DeskAddress } from './useDeskAddress'
import type { Queue } from './useQueue'
import type { useSelection } from './useSelection'

export function useWalk(
  { move, openId, go }: DeskAddress,
  queue: Queue,
  chosen: ReturnType<typeof useSelection>,
  me: Ref<number>,
) {
  const at = (id: number | null): number => queue.rows.value.findIndex((r) => r.id === id)

  function walk(step: number): void {
    const rows = queue.rows.value
    const here = at(openId.value)
    const next = rows[here < 0 ? 0 : Math.min(rows.length - 1, Math.max(0, here + step))]
    // What lies between is not passed over; it is there with the next key.
    if (next && openId.value !== null && here >= 0 && queue.isAcross(openId.value, next.id))
      void queue.loadMore(step < 0)
    else if (next) go(next.id)
  }
  const toStart = (): void => {
    const first = queue.rows.value[0]
    if (first) go(first.id)
  }
  async function toEnd(): Promise<void> {
    await queue.toEnd()
    const last = queue.rows.value.at(-1)
    if (last && !queue.problem.value) go(last.id)
  }
  /** Walk on and choose what lies between. */
  function extend(step: number): void {
    const next = queue.rows.value[at(openId.value) + step]
    if (openId.value !== null) void chosen.extendTo(openId.value)
    if (!next || (openId.value !== null && queue.isAcross(openId.value, next.id))) return
    void chosen.extendTo(next.id)
    go(next.id)
  }
  /** What one more key opens: the next two and the one before. */
  const neighbours = computed(() => {
    const here = at(openId.value)
    return [here + 1, here + 2, ...(here > 0 ? [here - 1] : [])].flatMap((n) => queue.rows.value[n]?.id ?? [])
  })
  /** With an act that finishes a conversation the next one opens. What comes back brings it back into the list. */
  function finish(id: number): () => void {
    const rows = queue.rows.value
    const here = at(id)
    const next = [rows[here + 1], rows[here - 1]].find((row) => row && !queue.isAcross(id, row.id))
    const bringBack = queue.remove(id)
    if (here >= 0) go(next?.id ?? null)
    return bringBack
  }
  /** Where an act sends a conversation so that one is done with it here; undefined: one stays with it. */
  function whereTo(body: Act): Move | undefined {
    if (body.act === 'park') return 'parked'
    if (body.act === 'settle' || body.act === 'hand_over') return 'settled'
    if (body.act === 'reopen') return 'our_move'
    const isSorted = body.act === 'keep' || (body.act === 'assign' && body.owner_id !== me.value)
    return isSorted && move.value === 'unsorted' ? 'our_move' : undefined
  }
  /** Whether one goes on to another with this act: it takes the conversation out of the list it stands in. */
  const goesOn = (id: number, body: Act): boolean =>
    move.value !== 'any' && at(id) >= 0 && ![undefined, move.value].includes(whereTo(body))

  return { walk, extend, toStart, toEnd, neighbours, finish, goesOn }
}
