/** What is done on the network to what they wrote, or to them; what cannot be taken back asks first. */
import { computed, ref, type Ref } from 'vue'
import type { Message, Moderation } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { MODERATION } from '@/lib/words'
import type { Acts } from './useActs'
import type { SheetState } from './useSheet'

export function useOutsideActs(state: SheetState, acts: Acts, mayModerate: Ref<boolean>) {
  const { directory, byNetwork } = useDirectory()
  const asking = ref<{ title: string; words: string; button: string; run: () => void } | null>(null)
  const lastOfTheirs = computed(() =>
    [...(state.sheet.value?.messages ?? [])].reverse().find((m) => m.inbound && !m.removed_at),
  )
  const networkName = computed(
    () => byNetwork.value.get(state.sheet.value?.conversation.network ?? '')?.name ?? 'the network',
  )

  function moderate(message: Message, what: Moderation): void {
    const run = (): void => {
      asking.value = null
      void acts.moderate(message.id, what, `${networkName.value}: ${MODERATION[what]?.word.toLowerCase()}`)
    }
    if (what === 'delete')
      asking.value = {
        title: `Delete it on ${networkName.value}?`,
        words: `Nobody on ${networkName.value} will see it any more. This cannot be undone there once it has gone out; it stays readable here.`,
        button: 'Delete it',
        run,
      }
    else if (what === 'block')
      asking.value = {
        title: `Block ${state.sheet.value?.person.name}?`,
        words: `${networkName.value} lets them write to this page no more. It can be taken back with Unblock.`,
        button: 'Block',
        run,
      }
    else run()
  }
  /** The same by key, for the last message of theirs; the reason shows when the network cannot do it. */
  function moderateLast(...whats: Moderation[]): void {
    const message = lastOfTheirs.value
    if (!message || !mayModerate.value) return
    const offer = message.offered.find((o) => whats.includes(o.what))
    if (offer && offer.obstacle === null) moderate(message, offer.what)
    else if (offer) acts.problem.value = offer.obstacle
  }
  function block(): void {
    const message = lastOfTheirs.value ?? state.sheet.value?.messages.find((m) => m.inbound)
    if (message) moderate(message, state.sheet.value?.person.blocked ? 'unblock' : 'block')
  }
  async function translate(message: Message | undefined): Promise<void> {
    if (!message || !directory.value?.can_translate) return
    if (await acts.translate(message.id)) await state.refetch()
  }
  function openOutside(): void {
    const url = lastOfTheirs.value?.url ?? state.sheet.value?.post?.url
    if (url) window.open(url, '_blank', 'noreferrer')
  }
  return { asking, lastOfTheirs, moderate, moderateLast, block, translate, openOutside }
}
