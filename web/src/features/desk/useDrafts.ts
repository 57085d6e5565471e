/**
 * Where what is typed is kept: on this device at once, on the server soon after, tried again while it cannot be reached.
 * Other tabs of the browser see it as it is typed; words written elsewhere meanwhile are never overwritten.
 */
import { onScopeDispose, ref, watch, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { KeptDraft, ReplyMode } from '@/api/types'
import { dropWords, keepWords, listPlaces, readWords, type Place as PlaceOf } from '@/lib/keptWords'
import { useSession } from '@/stores/session'

const SOON = 600
const JUST = 5000
const AGAIN_AFTER = [2000, 4000, 8000, 15_000]

type Place = PlaceOf<ReplyMode>
/** As they are kept on this device: with when they were typed, which sending them on does not change. */
type Words = KeptDraft & { typedAt?: number }
/** What one tab tells the others of this browser. */
export interface Typed {
  place: Place
  draft: KeptDraft
  /** Typed just now, kept by the server under a new number, or sent and gone. */
  what: 'typed' | 'kept' | 'sent'
}

export function useDrafts(
  workspaceId: Ref<number>,
  hears: {
    /** A conversation's draft has changed on the server. */
    onKept: (conversation: number) => void
    onRefused: (conversation: number, reason: string) => void
    /** Other words of one's own are on the server. */
    onElsewhere: (conversation: number, mode: ReplyMode) => void
    onTyped: (typed: Typed) => void
  },
) {
  const session = useSession()
  /** What the server may not know yet. */
  const held = new Map<string, { place: Place; draft: KeptDraft }>()
  const revs = new Map<string, number>()
  /** What the server took a moment ago: newer than a sheet that was asked for before that and comes after it. */
  const taken = new Map<string, { draft: KeptDraft; at: number }>()
  /** When each was typed, here or as it was found on the device: once the server has them, only the page knows. */
  const typedAt = new Map<string, number>()
  const timers = new Map<string, ReturnType<typeof setTimeout>>()
  const underWay = new Set<string>()
  /** Since when the server does not take it. */
  const isWaiting = ref(false)
  const tabs = new BroadcastChannel('sorta-words')
  tabs.onmessage = (event: MessageEvent<Typed>) => {
    const { place, draft, what } = event.data
    if (place.member !== session.session?.member_id || place.workspace !== workspaceId.value) return
    if (what !== 'typed') revs.set(nameOf(place), draft.rev)
    hears.onTyped(event.data)
  }
  let isOver = false
  const tell = (what: Typed['what'], place: Place, draft: KeptDraft): void => {
    if (!isOver) tabs.postMessage(JSON.parse(JSON.stringify({ what, place, draft })) as Typed)
  }

  const nameOf = (p: Place): string => `${p.conversation} ${p.mode}`
  const placeOf = (conversation: number, mode: ReplyMode): Place => ({
    member: session.session?.member_id ?? 0,
    workspace: workspaceId.value,
    conversation,
    mode,
  })

  async function put(name: string): Promise<void> {
    if (underWay.has(name)) return
    underWay.add(name)
    let tries = 0
    for (let one = held.get(name); one; one = held.get(name)) {
      const { place, draft } = one
      const path = { workspace_id: place.workspace, conversation_id: place.conversation }
      const files = draft.attachments.map((a) => a.id).filter((file) => file != null)
      const { mode, shared, account } = draft
      const body = { mode, body: draft.body, shared, files, account, rev: revs.get(name) ?? draft.rev }
      try {
        const kept = await take(
          api.PUT('/api/workspaces/{workspace_id}/conversations/{conversation_id}/draft', { params: { path }, body }),
        )
        revs.set(name, kept.rev)
        taken.set(name, { draft: { ...draft, rev: kept.rev }, at: Date.now() })
        dropWords(place, draft.body)
        tell('kept', place, { ...draft, rev: kept.rev })
        isWaiting.value = false
      } catch (error) {
        if (!(error instanceof ApiProblem)) throw error
        // Not reached, not signed in any more, or a fault of the server: the words stay on the device until it takes them.
        if (error.status === 0 || error.status === 401 || error.status >= 500 || error.kind === 'another-member') {
          isWaiting.value = true
          await new Promise((resolve) => setTimeout(resolve, AGAIN_AFTER[Math.min(tries++, AGAIN_AFTER.length - 1)]))
          continue
        }
        if (error.kind === 'changed-elsewhere') hears.onElsewhere(place.conversation, place.mode)
        else hears.onRefused(place.conversation, error.message)
      }
      if (held.get(name) === one) held.delete(name)
      hears.onKept(place.conversation)
    }
    underWay.delete(name)
  }

  /** Called on every keystroke; `now` does not wait for a pause in the typing. */
  function keep(conversation: number, draft: Words, now = false): void {
    const place = placeOf(conversation, draft.mode)
    const name = nameOf(place)
    typedAt.set(name, draft.typedAt ?? Date.now())
    keepWords(place, { ...draft, rev: revs.get(name) ?? draft.rev, typedAt: typedAt.get(name) })
    held.set(name, { place, draft })
    tell('typed', place, draft)
    clearTimeout(timers.get(name))
    timers.set(
      name,
      setTimeout(() => void put(name), now ? 0 : SOON),
    )
  }
  /** While the words are on their way out they are not kept anew as well. */
  function rest(conversation: number, mode: ReplyMode): void {
    clearTimeout(timers.get(nameOf(placeOf(conversation, mode))))
  }
  /** The words went out: nothing of them is to be kept, here or in another tab; `isGone` when the server has dropped them. */
  function sent(conversation: number, draft: KeptDraft, isGone: boolean): void {
    const place = placeOf(conversation, draft.mode)
    const name = nameOf(place)
    clearTimeout(timers.get(name))
    typedAt.delete(name)
    dropWords(place, draft.body)
    tell('sent', place, { ...draft, rev: 0 })
    taken.delete(name)
    if (isGone && !underWay.has(name)) {
      held.delete(name)
      revs.set(name, 0)
      return
    }
    // One that was being kept at that moment would come after the dropping and stay.
    held.set(name, { place, draft: { ...draft, body: '', attachments: [] } })
    void put(name)
  }
  /** What is newest of a conversation's mode: what the server may not have yet before what it has. */
  function newest(conversation: number, mode: ReplyMode, known: KeptDraft | undefined): KeptDraft | undefined {
    const place = placeOf(conversation, mode)
    const name = nameOf(place)
    const typed = held.get(name)?.draft
    if (typed) return typed
    const here = readWords<Words>(place)
    const last = taken.get(name)
    if (!here && last && Date.now() - last.at < JUST && last.draft.rev > (known?.rev ?? 0)) return last.draft
    if (!here) {
      revs.set(name, known?.rev ?? 0)
      return known
    }
    // Left behind by a reload or a lost connection: sent on as what it was written on.
    revs.set(name, here.rev)
    if (here.body !== known?.body) keep(conversation, here, true)
    else dropWords(place, here.body)
    return here
  }
  /** The mode that was typed in last, of what the server may not have yet or has had from this page only. */
  function lastTyped(conversation: number): ReplyMode | undefined {
    const typed = (['public', 'private', 'note'] as const).flatMap((mode) => {
      const place = placeOf(conversation, mode)
      const here = readWords<Words>(place)
      const at = here?.body.trim() ? (here.typedAt ?? 0) : typedAt.get(nameOf(place))
      return at === undefined ? [] : [{ mode, at }]
    })
    return typed.sort((a, b) => b.at - a.at)[0]?.mode
  }
  /** Go on from what the server has, whatever it is: one has looked at it. */
  function settle(conversation: number, mode: ReplyMode, rev: number): void {
    revs.set(nameOf(placeOf(conversation, mode)), rev)
  }
  /** Words of another day that never reached the server go there now. */
  function sendLeftovers(): void {
    for (const place of listPlaces<ReplyMode>(session.session?.member_id ?? 0, workspaceId.value)) {
      const draft = readWords<Words>(place)
      if (draft && !held.has(nameOf(place))) {
        revs.set(nameOf(place), draft.rev)
        keep(place.conversation, draft, true)
      }
    }
  }
  watch(workspaceId, sendLeftovers, { immediate: true })
  onScopeDispose(() => {
    isOver = true
    tabs.close()
    for (const name of held.keys()) void put(name)
  })

  return { keep, rest, sent, newest, settle, lastTyped, isWaiting }
}
