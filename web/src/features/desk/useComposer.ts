/** What is being written: text per conversation and mode, kept as it is typed, sent or refused with nothing lost. */
import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { CameBack, KeptDraft, OfferedReply, ReplyMode, Sheet } from '@/api/types'
import { asShortened } from '@/lib/links'
import { countGraphemes } from '@/lib/words'
import type { Acts } from './useActs'
import { useAttachments } from './useAttachments'
import { useDrafts } from './useDrafts'
import type { SheetState } from './useSheet'

const KEEP_AFTER = 600
const WRITING_FOR = 15_000

export function useComposer(workspaceId: Ref<number>, state: SheetState, acts: Acts, maySort: Ref<boolean>) {
  const text = ref('')
  const mode = ref<ReplyMode>('note')
  const problem = ref<string | null>(null)
  const movedOn = ref(false)
  const isSending = ref(false)
  /** The server said that these very words need approval. */
  const mustAsk = ref(false)
  const isWriting = ref(false)
  /** What was written before it was translated, in which language, and what the translator made of it. */
  const written = ref<{ text: string; language: string; into: string; made: string; rough: boolean } | null>(null)
  /** Colleagues see what is being written. */
  const shared = ref(false)
  /** The saved reply that the words were made from. */
  const savedReply = ref<number | null>(null)
  /** Another account of the network that answers in public instead of the one that was spoken to. */
  const sender = ref<number | null>(null)
  let conversation: number | null = null
  /** Files that go along; a note has none. */
  const attachments = useAttachments(workspaceId, () => conversation, onType)
  let keepTimer: ReturnType<typeof setTimeout> | undefined
  let quietTimer: ReturnType<typeof setTimeout> | undefined

  const modes = computed(() => state.sheet.value?.modes ?? [])
  const current = computed(() => modes.value.find((m) => m.mode === mode.value))
  /** Why an answer so needs approval first. */
  const needs = computed(() => (mode.value === 'note' ? [] : (current.value?.needs ?? [])))
  const asks = computed(() => mode.value !== 'note' && (needs.value.length > 0 || mustAsk.value))
  const length = computed(() =>
    countGraphemes(asShortened((current.value?.front ?? '') + text.value.trim(), current.value?.link_length ?? null)),
  )
  const isTooLong = computed(() => current.value !== undefined && length.value > current.value.limit)
  /** Something was said or decided that the author has not seen. */
  const hasNews = computed(() => {
    const sheet = state.sheet.value
    if (!sheet) return false
    const kinds = ['arrived', 'edited', 'removed', 'replied', 'answered_outside', 'settled']
    return movedOn.value || sheet.trail.some((e) => e.seq > state.seenSeq.value && kinds.includes(e.kind))
  })

  const at = (id: number) => ({ params: { path: { workspace_id: workspaceId.value, conversation_id: id } } })

  /** The mode a conversation opens with: how they spoke to us, where we may answer so. It never changes by itself later. */
  function chooseMode(sheet: Sheet): ReplyMode {
    const wanted = sheet.conversation.public ? 'public' : 'private'
    return sheet.modes.find((m) => m.mode === wanted)?.obstacle === null ? wanted : 'note'
  }

  const drafts = useDrafts(workspaceId, state.forget, (id, reason) => {
    if (id === conversation) problem.value = `What you write is not kept: ${reason}`
  })
  const hold = (): KeptDraft => ({
    mode: mode.value,
    body: text.value,
    shared: shared.value,
    attachments: attachments.files.value,
    account: sender.value,
  })
  function keepNow(): void {
    clearTimeout(keepTimer)
    if (conversation !== null && maySort.value) drafts.keep(conversation, hold())
  }

  watch(
    () => state.sheet.value?.conversation.id,
    () => {
      if (conversation !== null && keepTimer) keepNow()
      const sheet = state.sheet.value
      conversation = sheet?.conversation.id ?? null
      keepTimer = undefined
      problem.value = null
      movedOn.value = false
      mustAsk.value = false
      const draft = (sheet && drafts.newest(sheet.conversation.id)) ?? sheet?.draft
      text.value = draft?.body ?? ''
      shared.value = draft?.shared ?? false
      written.value = null
      savedReply.value = null
      sender.value = sheet?.senders.some((s) => s.id === draft?.account) ? (draft?.account ?? null) : null
      attachments.set(draft?.attachments ?? [])
      mode.value = sheet ? (draft?.mode ?? chooseMode(sheet)) : 'note'
      isWriting.value = false
    },
    { immediate: true },
  )
  watch(text, (now) => (state.isHolding.value = now.trim() !== ''), { immediate: true })

  /** Called on every keystroke. */
  function onType(): void {
    isWriting.value = text.value.trim() !== ''
    clearTimeout(keepTimer)
    keepTimer = setTimeout(keepNow, KEEP_AFTER)
    clearTimeout(quietTimer)
    quietTimer = setTimeout(() => (isWriting.value = false), WRITING_FOR)
  }
  function share(on: boolean): void {
    shared.value = on
    keepNow()
  }
  onScopeDispose(() => {
    clearTimeout(quietTimer)
    if (keepTimer) keepNow()
  })

  /** The author has read what is new and goes on. */
  function acknowledge(): void {
    movedOn.value = false
    problem.value = null
    state.markSeen()
  }

  /** Send as the mode says. True when it was taken; otherwise the text stays and the reason shows. */
  async function send(settle: boolean, sendAt?: string): Promise<boolean> {
    const id = conversation
    if (id === null || isSending.value || !text.value.trim()) return false
    problem.value = null
    isSending.value = true
    // Whoever walks on while it is being sent must not leave it behind as a draft too.
    clearTimeout(keepTimer)
    keepTimer = undefined
    const draft = hold()
    try {
      if (mode.value === 'note') {
        const isDone = await acts.act(id, { act: 'note', text: text.value }, 'Note added')
        if (!isDone) drafts.keep(id, draft)
        return isDone && clear(id)
      }
      const own = written.value && { text: written.value.text, language: written.value.language }
      const body = {
        public: mode.value === 'public',
        text: text.value,
        seen_seq: state.seenSeq.value,
        settle,
        saved_reply: savedReply.value,
        attachments: attachments.ids.value,
        account: mode.value === 'public' ? sender.value : null,
        ...(own ? { written: own } : {}),
      }
      if (sendAt !== undefined && !asks.value) {
        const kept = await take(
          api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/scheduled', {
            ...at(id),
            body: { ...body, send_at: sendAt },
          }),
        )
        acts.remember({ conversation: id, seq: kept.seq, words: 'To be sent later' })
        await state.refetch()
        return clear(id)
      }
      if (asks.value) {
        const asked = await take(
          api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/proposals', { ...at(id), body }),
        )
        acts.remember({ conversation: id, seq: 0, words: 'Asked for approval', proposal: asked.id })
        await state.refetch()
        return clear(id)
      }
      const made = await take(
        api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/replies', { ...at(id), body }),
      )
      acts.remember({ conversation: id, seq: made.seq, words: settle ? 'Reply sent, settled' : 'Reply sent' })
      return clear(id)
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      if (error.kind === 'moved-on') {
        // What is new comes before the word of it: who then goes on must not be held up by this look-up.
        await state.refetch()
      }
      drafts.keep(id, draft)
      if (conversation !== id) return false
      movedOn.value = error.kind === 'moved-on'
      if (error.kind === 'needs-approval') mustAsk.value = true
      problem.value = error.message
      return false
    } finally {
      isSending.value = false
    }
  }

  /** Empty the composer now that `id`'s words are out, unless it holds another conversation's by then. */
  function clear(id: number): true {
    if (conversation !== id) return true
    clearTimeout(keepTimer)
    keepTimer = undefined
    shared.value = false
    attachments.set([])
    text.value = ''
    written.value = null
    savedReply.value = null
    sender.value = null
    mustAsk.value = false
    keepNow()
    isWriting.value = false
    return true
  }

  /** The language they write in, when it is another than ours. */
  const theirLanguage = computed(() => {
    const last = [...(state.sheet.value?.messages ?? [])].reverse().find((m) => m.inbound && m.language)
    return last && last.language !== 'en' ? last.language : null
  })
  /** Put what was written into their language; the author's own words stay beside it. */
  async function translate(): Promise<void> {
    const into = theirLanguage.value
    if (!into || !text.value.trim()) return
    try {
      problem.value = null
      const own = text.value
      const made = await take(
        api.POST('/api/workspaces/{workspace_id}/translation', {
          params: { path: { workspace_id: workspaceId.value } },
          body: { text: own, language: into },
        }),
      )
      written.value = { text: own, language: 'en', into, made: made.text, rough: made.rough }
      text.value = made.text
      onType()
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = error.message
    }
  }
  function untranslate(): void {
    if (!written.value) return
    text.value = written.value.text
    written.value = null
    onType()
  }

  /** Put a saved reply where the cursor stands; what was typed after '/' to find it goes. */
  function insert(one: OfferedReply, from: number, until: number): number {
    text.value = text.value.slice(0, from) + one.text + text.value.slice(until)
    savedReply.value = one.id
    onType()
    return from + one.text.length
  }

  /** Change when the answer that waits here is sent; its author has looked at what is new. */
  async function reschedule(sendAt: string): Promise<void> {
    const waiting = state.sheet.value?.scheduled
    if (!waiting) return
    await attempt(() =>
      take(
        api.PUT('/api/workspaces/{workspace_id}/scheduled/{scheduled_id}', {
          params: { path: { workspace_id: workspaceId.value, scheduled_id: waiting.id } },
          body: { text: waiting.body, send_at: sendAt, seen_seq: state.sheet.value?.conversation.seq ?? 0 },
        }),
      ),
    )
  }
  /** Take it back into the composer. */
  async function unschedule(): Promise<void> {
    const waiting = state.sheet.value?.scheduled
    if (!waiting) return
    await attempt(async () => {
      const back = await take(
        api.DELETE('/api/workspaces/{workspace_id}/scheduled/{scheduled_id}', {
          params: { path: { workspace_id: workspaceId.value, scheduled_id: waiting.id } },
        }),
      )
      mode.value = waiting.public ? 'public' : 'private'
      restore({ text: back.text ?? '', attachments: back.attachments })
    })
  }
  async function attempt(call: () => Promise<unknown>): Promise<void> {
    try {
      problem.value = null
      await call()
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = error.message
    }
    await state.refetch()
  }

  /** Put words back: a reply that was undone or refused. */
  function restore({ text: words, attachments: files = [] }: CameBack): void {
    const front = current.value?.front ?? ''
    text.value = front && words.startsWith(front) ? words.slice(front.length) : words
    attachments.set(files)
    onType()
  }

  return {
    needs,
    asks,
    text,
    mode,
    modes,
    current,
    length,
    isTooLong,
    hasNews,
    problem,
    isSending,
    isWriting,
    shared,
    share,
    onType,
    acknowledge,
    send,
    reschedule,
    unschedule,
    insert,
    restore,
    chooseMode,
    written,
    theirLanguage,
    translate,
    untranslate,
    attachments,
    sender,
  }
}
export type ComposerState = ReturnType<typeof useComposer>
