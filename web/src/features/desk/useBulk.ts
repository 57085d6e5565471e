/** What is done to all that are selected, and which of its dialogs is open. */
import { computed, nextTick, ref, type Ref } from 'vue'
import type { Act, Desk, SavedReply } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { useSession } from '@/stores/session'
import type { Acts } from './useActs'
import type { Queue } from './useQueue'
import type { useSelection } from './useSelection'
import type { SheetState } from './useSheet'

export type BulkDialog = 'give' | 'answer' | 'note' | 'tag' | 'tagPerson'

export function useBulk(
  acts: Acts,
  chosen: ReturnType<typeof useSelection>,
  queue: Queue,
  state: SheetState,
  openId: Ref<number | null>,
  go: (id: number | null) => void,
  focusList: () => void,
) {
  const session = useSession()
  const { directory, refetchDirectory } = useDirectory()
  const dialog = ref<BulkDialog | null>(null)
  /** The support desk they are being handed over to. */
  const handing = ref<Desk | null>(null)
  const mayAnswer = computed(() => session.may('reply_publicly') || session.may('reply_privately'))

  const open = (which: BulkDialog): void => void (dialog.value = which)
  const handOver = (to: Desk): void => void (handing.value = to)
  const close = (): void => void (dialog.value = handing.value = null)
  /** Several things to all of them, one after the other, each to be taken back by itself. */
  async function actEach(each: [body: Act, words: string][]): Promise<void> {
    close()
    const done: number[] = []
    for (const [body, words] of each) done.push(...(await acts.actOnMany(chosen.aims.value, body, words)))
    chosen.clear()
    // The button that had the focus is gone with its bar: the keys go on in the list.
    await nextTick()
    if (document.activeElement === document.body) focusList()
    await Promise.all([queue.reload(), state.refetch(), refetchDirectory()])
    if (openId.value !== null && done.includes(openId.value) && !queue.rows.value.some((r) => r.id === openId.value))
      go(queue.rows.value[0]?.id ?? null)
  }
  const act = (body: Act, words: string): Promise<void> => actEach([[body, words]])
  function tag(changes: { name: string; on: boolean }[]): Promise<void> {
    const person = dialog.value === 'tagPerson'
    return actEach(
      changes.map(({ name, on }) => [{ act: 'tag', name, on, person }, `${on ? 'tagged' : 'no longer'} ${name}`]),
    )
  }
  const answer = (reply: SavedReply, settle: boolean): Promise<void> =>
    act(
      { act: 'answer', saved_reply: reply.id, settle },
      `answered with “${reply.body.name}”${settle ? ', settled' : ''}`,
    )
  /** Translating adds nothing to a trail: there is nothing to take back, and all stay selected. */
  async function translate(): Promise<void> {
    if (!directory.value?.can_translate) return
    await acts.tryOnMany(chosen.aims.value, { act: 'translate', language: session.ownLanguage })
    state.forget()
    await state.refetch()
  }
  const takeOut = (form: 'csv' | 'xlsx'): Promise<boolean> =>
    acts.takeOut(
      chosen.aims.value.map((a) => a.id),
      form,
    )
  async function selectAll(): Promise<void> {
    const all = await queue.findAims()
    if (all) chosen.set(all)
  }
  const count = computed(() => chosen.ids.value.length)
  return { dialog, handing, open, handOver, close, mayAnswer, count, act, tag, answer, translate, takeOut, selectAll }
}
export type Bulk = ReturnType<typeof useBulk>
