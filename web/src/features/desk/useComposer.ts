/** What is being written: text per conversation and mode, kept as it is typed, sent or refused with nothing lost. */
import { computed, onScopeDispose, ref, watch, type Ref, type WritableComputedRef } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Attachment, CameBack, KeptDraft, OfferedReply, ReplyMode, Sheet } from '@/api/types'
import { countGraphemes, listUnfilled } from '@/lib/words'
import { asShortened } from './parts'
import type { Acts } from './useActs'
import { useAttachments } from './useAttachments'
import { useDrafts } from './useDrafts'
import type { SheetState } from './useSheet'
import { useSession } from '@/stores/session'

const WRITING_FOR = 15_000
const MODES: ReplyMode[] = ['public', 'private', 'note']

/** What is being written in one mode: a text of its own, so that internal words never stand in a public reply. */
interface Pad {
  body: string
  shared: boolean
  files: Attachment[]
  /** Another account of the network that answers in public instead of the one that was spoken to. */
  account: number | null
  rev: number
  /** The saved reply that the words were made from, and the words as they were put in. */
  savedReply: { id: number; text: string } | null
  /** What was written before it was translated, in which language, and what the translator made of it. */
  written: { text: string; language: string; into: string; made: string; rough: boolean } | null
}
const makePad = (d?: KeptDraft): Pad => ({
  body: d?.body ?? '',
  shared: d?.shared ?? false,
  files: d?.attachments ?? [],
  account: d?.account ?? null,
  rev: d?.rev ?? 0,
  savedReply: null,
  written: null,
})

export function useComposer(workspaceId: Ref<number>, state: SheetState, acts: Acts, maySort: Ref<boolean>) {
  const session = useSession()
  const pads = ref<Record<ReplyMode, Pad>>({ public: makePad(), private: makePad(), note: makePad() })
  const mode = ref<ReplyMode>('note')
  const pad = computed(() => pads.value[mode.value])
  const of = <K extends keyof Pad>(key: K): WritableComputedRef<Pad[K]> =>
    computed({ get: () => pad.value[key], set: (value) => (pad.value[key] = value) })
  const text = of('body')
  const shared = of('shared')
  const sender = of('account')
  const written = of('written')
  const savedReply = of('savedReply')
  const problem = ref<string | null>(null)
  const movedOn = ref(false)
  const isSending = ref(false)
  /** The server said that these very words need approval. */
  const mustAsk = ref(false)
  const isWriting = ref(false)
  /** Words of one's own that were written here in another tab or on another device, by mode. */
  const elsewhere = ref<Partial<Record<ReplyMode, KeptDraft>>>({})
  /** Said once after words were brought over from another mode. */
  const carriedFrom = ref<ReplyMode | null>(null)
  let conversation: number | null = null
  /** Files that go along; a note has none. */
  const attachments = useAttachments(workspaceId, () => conversation, of('files'), onType)
  let quietTimer: ReturnType<typeof setTimeout> | undefined

  const modes = computed(() => state.sheet.value?.modes ?? [])
  const current = computed(() => modes.value.find((m) => m.mode === mode.value))
  /** Why an answer so needs approval first. */
  const needs = computed(() => (mode.value === 'note' ? [] : (current.value?.needs ?? [])))
  const asks = computed(() => mode.value !== 'note' && (needs.value.length > 0 || mustAsk.value))
  /** What closes the answer of whoever sends it, with what sets it off. */
  const signOff = computed(() => {
    if (mode.value === 'note') return ''
    const other = mode.value === 'public' ? state.sheet.value?.senders.find((s) => s.id === sender.value) : undefined
    return other?.sign_off ?? current.value?.sign_off ?? ''
  })
  const length = computed(() =>
    countGraphemes(
      (
        asShortened((current.value?.front ?? '') + text.value.trim(), current.value?.link_length ?? null) +
        signOff.value
      ).trim(),
    ),
  )
  /** There is something to send: words, or a file that speaks for itself. A note has words. */
  const isSendable = computed(() => text.value.trim() !== '' || (mode.value !== 'note' && pad.value.files.length > 0))
  const isTooLong = computed(() => current.value !== undefined && length.value > current.value.limit)
  /** What stands in braces as if something would be filled in there, and nothing will. */
  const unfilled = computed(() => (mode.value === 'note' ? [] : listUnfilled(text.value)))
  /** Something was said or decided that the author has not seen. */
  const hasNews = computed(() => {
    const sheet = state.sheet.value
    if (!sheet) return false
    const kinds = ['arrived', 'edited', 'removed', 'replied', 'answered_outside', 'settled', 'handed_over']
    return movedOn.value || sheet.trail.some((e) => e.seq > state.seenSeq.value && kinds.includes(e.kind))
  })
  /** Words that stand in another mode, when this one is empty. */
  const others = computed(() =>
    text.value.trim() ? [] : MODES.filter((m) => m !== mode.value && pads.value[m].body.trim() !== ''),
  )

  const at = (id: number) => ({ params: { path: { workspace_id: workspaceId.value, conversation_id: id } } })

  /** The mode a conversation opens with: how they spoke to us, where we may answer so. It never changes by itself later. */
  function chooseMode(sheet: Sheet): ReplyMode {
    const wanted = sheet.conversation.public ? 'public' : 'private'
    return sheet.modes.find((m) => m.mode === wanted)?.obstacle === null ? wanted : 'note'
  }

  const drafts = useDrafts(workspaceId, {
    onKept: state.forget,
    onRefused: (id, reason) => {
      if (id === conversation) problem.value = `What you write is kept on this device only: ${reason}`
    },
    onElsewhere: (id, which) => void lookElsewhere(id, which),
    onTyped: ({ place, draft, what }) => {
      if (place.conversation !== conversation) return
      const here = pads.value[place.mode]
      if (what === 'typed') here.body = draft.body
      else if (what === 'sent' && here.body === draft.body) pads.value[place.mode] = makePad()
    },
  })
  async function lookElsewhere(id: number, which: ReplyMode): Promise<void> {
    await state.refetch()
    if (id !== conversation) return
    const there = state.sheet.value?.drafts.find((d) => d.mode === which)
    if (there && there.body !== pads.value[which].body) elsewhere.value = { ...elsewhere.value, [which]: there }
    else drafts.settle(id, which, there?.rev ?? 0)
  }
  /** Which of the two texts stays. */
  function choose(which: 'theirs' | 'mine'): void {
    const there = elsewhere.value[mode.value]
    if (!there || conversation === null) return
    drafts.settle(conversation, mode.value, there.rev)
    if (which === 'theirs') pads.value[mode.value] = makePad(there)
    else keepNow()
    elsewhere.value = { ...elsewhere.value, [mode.value]: undefined }
  }
  const hold = (which: ReplyMode = mode.value): KeptDraft => {
    const p = pads.value[which]
    return { mode: which, body: p.body, shared: p.shared, attachments: p.files, account: p.account, rev: p.rev }
  }
  function keepNow(): void {
    if (conversation !== null && maySort.value) drafts.keep(conversation, hold(), true)
  }

  watch(
    () => state.sheet.value?.conversation.id,
    () => {
      const sheet = state.sheet.value
      conversation = sheet?.conversation.id ?? null
      problem.value = null
      movedOn.value = false
      mustAsk.value = false
      elsewhere.value = {}
      carriedFrom.value = null
      const typedLast = sheet && drafts.lastTyped(sheet.conversation.id)
      const found = new Map(
        MODES.map((m) => [
          m,
          sheet &&
            drafts.newest(
              sheet.conversation.id,
              m,
              sheet.drafts.find((d) => d.mode === m),
            ),
        ]),
      )
      for (const m of MODES) {
        const made = makePad(found.get(m) ?? undefined)
        if (!sheet?.senders.some((s) => s.id === made.account)) made.account = null
        pads.value[m] = made
      }
      const last = typedLast ?? sheet?.drafts[0]?.mode ?? MODES.find((m) => pads.value[m].body.trim() !== '')
      mode.value = sheet ? (last ?? chooseMode(sheet)) : 'note'
      isWriting.value = false
    },
    { immediate: true },
  )
  watch(isSendable, (now) => (state.isHolding.value = now), { immediate: true })
  watch(mode, () => {
    mustAsk.value = false
    problem.value = null
    carriedFrom.value = null
  })

  /** Called on every keystroke. */
  function onType(): void {
    isWriting.value = isSendable.value
    if (conversation !== null && maySort.value) drafts.keep(conversation, hold())
    clearTimeout(quietTimer)
    quietTimer = setTimeout(() => (isWriting.value = false), WRITING_FOR)
  }
  function share(on: boolean): void {
    shared.value = on
    keepNow()
  }
  onScopeDispose(() => clearTimeout(quietTimer))

  /** Bring the words of another mode here; there they are gone. */
  function carryOver(from: ReplyMode): void {
    if (conversation === null || text.value.trim()) return
    const words = pads.value[from].body
    pads.value[from] = makePad()
    drafts.keep(conversation, hold(from), true)
    text.value = words
    keepNow()
    carriedFrom.value = from
  }

  /** The author has read what is new and goes on. */
  function acknowledge(): void {
    movedOn.value = false
    problem.value = null
    state.markSeen()
  }

  /** Send as the mode says. True when it was taken; otherwise the text stays and the reason shows. */
  async function send(settle: boolean, sendAt?: string): Promise<boolean> {
    const id = conversation
    // Only what stands under its name on the screen can be answered.
    if (id === null || state.phase.value !== 'shown' || isSending.value || !isSendable.value) return false
    if (unfilled.value.length) {
      problem.value = `Nothing can be filled in for ${unfilled.value.join(', ')}. Write it out, or take the braces away.`
      return false
    }
    problem.value = null
    isSending.value = true
    // Or the picture would go without what was just said about it.
    await attachments.allTold()
    if (conversation !== id) {
      // Whoever has gone on meanwhile sends nothing: what was written waits as a draft.
      isSending.value = false
      return false
    }
    const draft = hold()
    drafts.rest(id, draft.mode)
    try {
      if (mode.value === 'note') {
        const aim = { id, seq: state.seenSeq.value }
        const note = { act: 'note' as const, text: text.value }
        const refusal = await state.expect(id, note, acts.act(aim, note, 'Note added'))
        const isDone = refusal === null
        if (refusal) acts.problem.value = refusal.message
        if (!isDone) drafts.keep(id, draft, true)
        return isDone && clear(id, draft, false)
      }
      const own = written.value && { text: written.value.text, language: written.value.language }
      const body = {
        public: mode.value === 'public',
        text: text.value,
        seen_seq: state.seenSeq.value,
        settle,
        saved_reply: savedReply.value?.id ?? null,
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
        acts.remember({ conversation: id, seq: kept.seq, words: 'To be sent later', mode: draft.mode })
        await state.refetch()
        return clear(id, draft)
      }
      if (asks.value) {
        const asked = await take(
          api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/proposals', { ...at(id), body }),
        )
        acts.remember({ conversation: id, seq: 0, words: 'Asked for approval', proposal: asked.id, mode: draft.mode })
        await state.refetch()
        return clear(id, draft)
      }
      const made = await take(
        api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/replies', { ...at(id), body }),
      )
      acts.remember({
        conversation: id,
        seq: made.seq,
        words: settle ? 'Reply sent, settled' : 'Reply sent',
        mode: draft.mode,
      })
      return clear(id, draft)
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      if (error.kind === 'moved-on') {
        // What is new comes before the word of it: who then goes on must not be held up by this look-up.
        await state.refetch()
      }
      drafts.keep(id, draft, true)
      if (conversation !== id) return false
      movedOn.value = error.kind === 'moved-on'
      if (error.kind === 'needs-approval') mustAsk.value = true
      problem.value = error.message
      return false
    } finally {
      isSending.value = false
    }
  }

  /** Now that `id`'s words are out nothing of them stays, here or elsewhere; a note's draft the server still has. */
  function clear(id: number, draft: KeptDraft, isGone = true): true {
    drafts.sent(id, draft, isGone)
    if (conversation !== id) return true
    pads.value[draft.mode] = makePad()
    mustAsk.value = false
    isWriting.value = false
    return true
  }

  /** The language they write in, when it is another than ours. */
  const theirLanguage = computed(() => {
    const last = [...(state.sheet.value?.messages ?? [])].reverse().find((m) => m.inbound && m.language)
    return last && !session.readsLanguage(last.language) ? last.language : null
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
      written.value = { text: own, language: session.ownLanguage, into, made: made.text, rough: made.rough }
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

  /** The text with a saved reply where the cursor stands; what was typed after '/' to find it goes, and so does one that was put
   * in before and is unchanged. */
  function lay(one: Pick<OfferedReply, 'id' | 'text'>, from: number, until: number): { text: string; end: number } {
    const before = savedReply.value
    const rest = text.value.slice(0, from) + text.value.slice(until)
    const at = before ? rest.indexOf(before.text) : -1
    const [head, tail] =
      before && at >= 0
        ? [rest.slice(0, at), rest.slice(at + before.text.length)]
        : [text.value.slice(0, from), text.value.slice(until)]
    savedReply.value = { id: one.id, text: one.text }
    return { text: head + one.text + tail, end: head.length + one.text.length }
  }
  function insert(one: Pick<OfferedReply, 'id' | 'text'>): void {
    text.value = lay(one, 0, 0).text
    onType()
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
    const said = front && words.startsWith(front) ? words.slice(front.length) : words
    const close = signOff.value
    text.value = close && said.endsWith(close) ? said.slice(0, -close.length) : said
    attachments.set(files)
    onType()
  }
  /** Words typed for a conversation that is not on the screen (yet): kept as its draft, shown when it opens. */
  function keepFor(id: number, which: ReplyMode, words: string): void {
    if (id === conversation) {
      mode.value = which
      text.value += words
      onType()
    } else drafts.keep(id, { ...hold(which), body: words, shared: false, attachments: [], account: null, rev: 0 }, true)
  }
  /** Words that came from elsewhere go into their own mode; what stands there already is not lost but follows. */
  function restoreTo(which: ReplyMode, back: CameBack): void {
    mode.value = which
    const had = text.value.trim()
    restore(had && had !== back.text.trim() ? { ...back, text: `${back.text}\n\n${had}` } : back)
  }

  return {
    needs,
    asks,
    text,
    pads,
    mode,
    modes,
    current,
    length,
    isSendable,
    isTooLong,
    unfilled,
    hasNews,
    others,
    elsewhere,
    carriedFrom,
    isUnkept: drafts.isWaiting,
    problem,
    isSending,
    isWriting,
    shared,
    share,
    onType,
    acknowledge,
    send,
    carryOver,
    choose,
    reschedule,
    unschedule,
    insert,
    lay,
    signOff,
    restore,
    restoreTo,
    keepFor,
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
