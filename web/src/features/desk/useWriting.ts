/** Beginning to write by a key, also before the conversation is on the screen: what is typed meanwhile is kept for it. */
import { watch, type Ref } from 'vue'
import type { ReplyMode } from '@/api/types'
import { useKeyRouter } from '@/composables/useKeys'
import type { ComposerState } from './useComposer'
import type { SheetState } from './useSheet'

export function useWriting(
  openId: Ref<number | null>,
  state: SheetState,
  composer: ComposerState,
  choose: (mode: ReplyMode) => Promise<void> | undefined,
) {
  const keys = useKeyRouter()

  async function write(mode: ReplyMode): Promise<void> {
    const id = openId.value
    if (id === null) return
    if (state.phase.value === 'shown') return choose(mode)
    let typed = ''
    const stop = keys.typeAhead((more) => (typed += more))
    // After the page has been drawn: only then is there a field that can have the focus.
    const unwatch = watch(
      [state.phase, openId],
      async ([phase, now]) => {
        if (now === id && phase === 'opening') return
        stop()
        if (now === id && phase === 'failed') return
        unwatch()
        if (now === id) await choose(mode)
        if (typed) composer.keepFor(id, mode, typed)
      },
      { flush: 'post' },
    )
  }
  return { write }
}
