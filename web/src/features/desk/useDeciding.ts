/** Deciding about the open conversation: staying with it until the answer is there, or going on to the next at once. */
import { computed, ref, watch, type Ref } from 'vue'
import type { Act } from '@/api/types'
import type { Aim, Acts } from './useActs'
import type { SheetState } from './useSheet'

/** An act that was refused when the next conversation was open already. */
export interface LeftAsItWas {
  id: number
  name: string
  words: string
  reason: string
}
/** By member and workspace: said until somebody has seen them, also where the desk was left meanwhile. */
const allLeft = ref<Record<string, LeftAsItWas[]>>({})

export function useDeciding(
  key: Ref<string>,
  openId: Ref<number | null>,
  state: SheetState,
  acts: Acts,
  goesOn: (id: number, body: Act) => boolean,
  finish: (id: number) => () => void,
  /** Asks whether to do it all the same. */
  askAgain: (title: string, words: string, run: () => void) => void,
) {
  /** The sheet on the screen is that of the open conversation: nothing is decided about one that cannot be seen yet. */
  const isSeen = computed(() => state.phase.value === 'shown')
  const left = computed(() => allLeft.value[key.value] ?? [])
  const put = (key: string, list: LeftAsItWas[]): void => void (allLeft.value = { ...allLeft.value, [key]: list })
  const drop = (id?: number): void => put(key.value, id === undefined ? [] : left.value.filter((one) => one.id !== id))
  const leave = (key: string, one: LeftAsItWas): void =>
    put(key, [...(allLeft.value[key] ?? []).filter(({ id }) => id !== one.id), one])
  // Whoever opens it sees how it stands.
  watch([openId, isSeen], ([id, seen]) => seen && id !== null && left.value.some((one) => one.id === id) && drop(id))

  async function act(body: Act, words: string): Promise<void> {
    const id = openId.value
    if (id === null || !isSeen.value) return
    const aim = { id, seq: state.seenSeq.value }
    const name = state.sheet.value?.conversation.person_name ?? ''
    const mine = key.value
    if (goesOn(id, body)) return goOn(aim, body, words, mine, name)
    const refusal = await state.expect(id, body, acts.act(aim, body, words))
    if (!refusal) return
    // Whoever has gone elsewhere meanwhile is not asked over another one, and is told whose it was.
    if (openId.value !== id) return leave(mine, { id, name, words, reason: refusal.message })
    if (refusal.kind !== 'moved-on')
      return void (acts.problem.value = `Left as it was, not “${words}”: ${refusal.message}`)
    // What is new is on the screen first, and then asked about.
    await state.refetch()
    askAgain(
      `${name}: it moved on`,
      `${refusal.message} Do it all the same (${words.toLowerCase()})?`,
      () => void act(body, words),
    )
  }
  /**
   * The next one opens before the answer is there, which is a refusal once in hundreds. A refused one is back in its place in the list, and a line
   * leads to it; nobody is taken away from what they are at by then.
   */
  async function goOn(aim: Aim, body: Act, words: string, mine: string, name: string): Promise<void> {
    const acted = acts.act(aim, body, words, true)
    const bringBack = finish(aim.id)
    const refusal = await acted
    if (!refusal) return
    bringBack()
    leave(mine, { id: aim.id, name, words, reason: refusal.message })
  }
  /** Several things to the open one, one after the other, each to be taken back by itself. */
  async function actEach(each: [body: Act, words: string][]): Promise<void> {
    const id = openId.value
    for (const [body, words] of each) if (openId.value === id) await act(body, words)
  }
  return { isSeen, act, actEach, left, drop }
}
