/** The open conversation, and how much of it its reader has seen. */
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { api, ApiProblem, take, tell } from '@/api/client'
import type { Act, Sheet } from '@/api/types'
import { afterPaint } from '@/lib/afterPaint'
import { keepSame } from '@/lib/keepSame'
import { inOrder } from '@/lib/order'
import { foresee } from './foresee'

const AHEAD_AFTER = 60
const TRUSTED_FOR = 10_000

export type SheetPhase = 'none' | 'opening' | 'failed' | 'shown'

/** `isDrawn` is whether there is a sheet to show conversations on: its code comes after the list's. */
export function useSheet(workspaceId: Ref<number>, id: Ref<number | null>, isDrawn: Ref<boolean>, me: Ref<number>) {
  const sheet = shallowRef<Sheet | null>(null)
  const problem = ref<ApiProblem | null>(null)
  /** Where the conversation that is to be open stands. While it is not shown the sheet of the one before is inert. */
  const phase = computed<SheetPhase>(() => {
    if (id.value === null) return 'none'
    if (sheet.value?.conversation.id === id.value && isDrawn.value) return 'shown'
    return problem.value ? 'failed' : 'opening'
  })
  /** The newest trail number that the author has seen; stands still while something is being written. */
  const seenSeq = ref(0)
  /** Set by the composer: while it holds words, news is pointed out and not taken as seen. */
  const isHolding = ref(false)

  /** Sheets looked up before they are asked for, so that walking and 'the next opens' wait for nothing. */
  const ahead = new Map<number, { found: Sheet; at: number }>()
  /** Look-ups on their way; one that is not in here any more when it comes is out of date. */
  const underWay = new Map<number, symbol>()
  const order = inOrder()
  /** The look-up of the open conversation that is on its way, or the act that brings it. */
  let flying: Promise<void> | null = null
  let aheadTimer: ReturnType<typeof setTimeout> | undefined

  const at = (conversation: number) => ({
    params: { path: { workspace_id: workspaceId.value, conversation_id: conversation } },
  })

  function markSeen(): void {
    const now = sheet.value
    if (!now) return
    seenSeq.value = now.conversation.seq
    const { id, seq } = now.conversation
    const where = at(id)
    afterPaint(() =>
      tell(api.PUT('/api/workspaces/{workspace_id}/conversations/{conversation_id}/read', { ...where, body: { seq } })),
    )
  }

  const fetchSheet = (id: number): Promise<Sheet> =>
    take(api.GET('/api/workspaces/{workspace_id}/conversations/{conversation_id}', at(id)))

  function show(found: Sheet): void {
    const isOther = sheet.value?.conversation.id !== found.conversation.id
    problem.value = null
    // Painting anew costs more than comparing, and most look-ups find little that is new.
    sheet.value = keepSame(sheet.value, found)
    if (isOther || (!isHolding.value && seenSeq.value < found.conversation.seq)) markSeen()
  }

  function fly(work: Promise<void>): Promise<void> {
    const mine = work.finally(() => {
      if (flying === mine) flying = null
    })
    return (flying = mine)
  }
  const refetch = (): Promise<void> => fly(look())
  async function look(): Promise<void> {
    const asked = id.value
    if (asked === null) {
      sheet.value = null
      return
    }
    const turn = order.ask()
    try {
      const found = await fetchSheet(asked)
      if (id.value === asked && order.isNews(turn)) show(found)
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      if (id.value !== asked) return
      problem.value = error
      if (error.status === 404 && sheet.value?.conversation.id === asked) sheet.value = null
    }
  }

  /**
   * See to it that what happened in a conversation by this number of its trail is shown, where it is open; without one, that it is looked
   * up anew. An act and the notice of it both ask; one look-up is enough.
   */
  async function reach(conversation: number, seq?: number): Promise<void> {
    if (seq === undefined) return refetch()
    await flying
    if (id.value !== conversation) return
    const shown = sheet.value?.conversation
    if (shown?.id !== conversation || shown.seq < seq) await refetch()
  }

  /** Acts whose answers are on their way, whichever conversation they are meant for. */
  const coming = shallowRef<{ conversation: number; body: Act; answer: Promise<unknown> }[]>([])
  const comingHere = computed(() => coming.value.filter((one) => one.conversation === sheet.value?.conversation.id))
  /** The open conversation with what acts on their way say of it by themselves. */
  const foreseen = computed(() => {
    const now = sheet.value
    if (!now || !comingHere.value.length) return now
    return {
      ...now,
      conversation: comingHere.value.reduce((c, { body }) => foresee(c, body, me.value), now.conversation),
    }
  })
  /** An act is on its way: everybody's notice of it comes sooner than its answer, and need not look up what that brings. */
  function expect<T>(conversation: number, body: Act, act: Promise<T>): Promise<T> {
    const one = { conversation, body, answer: act }
    coming.value = [...coming.value, one]
    void fly(Promise.allSettled(coming.value.map(({ answer }) => answer)).then(() => undefined))
    return act.finally(() => (coming.value = coming.value.filter((other) => other !== one)))
  }
  /** The answer to an act brings the conversation as it is after it. */
  function bring(found: Sheet): void {
    const { id: brought, seq } = found.conversation
    if (id.value !== brought || seq < (sheet.value?.conversation.seq ?? 0)) return
    order.isNews(order.ask())
    show(found)
  }

  /** A conversation is not any more as it was looked up ahead; without a number: any of them. */
  function forget(conversation?: number): void {
    if (conversation === undefined) {
      ahead.clear()
      underWay.clear()
    } else {
      ahead.delete(conversation)
      underWay.delete(conversation)
    }
  }

  /** Have these at hand, once nothing else was asked for a moment. What fails is asked for again when it is opened. */
  function lookAhead(conversations: number[]): void {
    clearTimeout(aheadTimer)
    aheadTimer = setTimeout(async () => {
      for (const one of ahead.keys()) if (!conversations.includes(one)) ahead.delete(one)
      for (const one of conversations) {
        if (ahead.has(one) || underWay.has(one)) continue
        const mine = Symbol()
        underWay.set(one, mine)
        try {
          const found = await fetchSheet(one)
          if (underWay.get(one) === mine) ahead.set(one, { found, at: Date.now() })
        } catch (error) {
          if (!(error instanceof ApiProblem)) throw error
        } finally {
          if (underWay.get(one) === mine) underWay.delete(one)
        }
      }
    }, AHEAD_AFTER)
  }

  watch(
    [workspaceId, id],
    ([workspace], before) => {
      problem.value = null
      if (workspace !== before?.[0]) forget()
      const known = id.value === null ? undefined : ahead.get(id.value)
      if (known) {
        ahead.delete(known.found.conversation.id)
        show(known.found)
      }
      // Notices say what has changed meanwhile; after a while they are not relied on.
      if (!known || Date.now() - known.at > TRUSTED_FOR) void refetch()
    },
    { immediate: true },
  )
  onScopeDispose(() => clearTimeout(aheadTimer))
  return {
    sheet,
    foreseen,
    isComing: computed(() => comingHere.value.length > 0),
    problem,
    phase,
    seenSeq,
    isHolding,
    markSeen,
    refetch,
    reach,
    expect,
    bring,
    forget,
    lookAhead,
  }
}
export type SheetState = ReturnType<typeof useSheet>
