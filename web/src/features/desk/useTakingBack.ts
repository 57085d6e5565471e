/** Taking back what was done, with the words of an answer put back where they were written. */
import { watch, type Ref } from 'vue'
import type { Acts, TakenBack } from './useActs'
import type { ComposerState } from './useComposer'
import type { Queue } from './useQueue'
import type { SheetState } from './useSheet'

export function useTakingBack(
  acts: Acts,
  state: SheetState,
  openId: Ref<number | null>,
  isSeen: Ref<boolean>,
  queue: Queue,
  composer: ComposerState,
  go: (id: number) => void,
  refetchDirectory: () => unknown,
) {
  /** The last thing done, wherever that was. */
  async function undo(): Promise<void> {
    await bringBack(await acts.undo())
  }
  /** What stands in the trail of the open conversation. */
  async function undoAt(seq: number): Promise<void> {
    const id = openId.value
    if (id === null || !isSeen.value) return
    const event = state.sheet.value?.trail.find((e) => e.seq === seq)
    const mode = event && 'public' in event.data ? (event.data.public ? 'public' : 'private') : undefined
    await bringBack(await acts.undoAt(id, seq, mode))
  }
  async function bringBack(back: TakenBack | null): Promise<void> {
    if (!back) return
    void refetchDirectory()
    if (openId.value !== back.conversation) go(back.conversation)
    await queue.reload()
    const words = back.back
    if (words === null) return
    const stop = watch(
      [state.phase, openId],
      ([phase, id]) => {
        if (id !== back.conversation || phase !== 'shown') return
        setTimeout(() => composer.restoreTo(back.mode ?? composer.mode.value, words))
        setTimeout(() => stop())
      },
      { immediate: true },
    )
  }
  return { undo, undoAt }
}
