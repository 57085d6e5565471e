/** Doing things to a conversation, and taking them back: the last twenty, one after the other. */
import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Act, Attachment, CameBack, Moderation, ReplyMode, Sheet } from '@/api/types'
import { saveFile } from '@/lib/files'
import { useSession } from '@/stores/session'

const MOST_KEPT = 20
const AT_ONCE = 50
/** Only an answer says something when it is taken back. */
const asCameBack = (back: { text?: string | null; attachments?: Attachment[] }): CameBack | null =>
  back.text == null ? null : { text: back.text, attachments: back.attachments ?? [] }

export interface DoneAct {
  conversation: number
  seq: number
  words: string
  /** When it was begun: answers come in any order, and what was done last is taken back first. */
  begun?: number
  /** When one act was done to several: all of them, taken back as one. */
  many?: { id: number; seq: number }[]
  /** An answer that waits for approval is taken back by withdrawing it. */
  proposal?: number
  /** An answer comes back into the mode it was written in. */
  mode?: ReplyMode
}
/** What was taken back, and where its words belong. */
export interface TakenBack {
  conversation: number
  back: CameBack | null
  mode: ReplyMode | undefined
}
/** A conversation that an act is meant for, and the newest number of its trail that its author has seen. */
export interface Aim {
  id: number
  seq: number
}

/** What refused an act, or null; undefined where the very same is on its way. */
type Acted = Promise<ApiProblem | null | undefined>

/** How many were left for which reason, the commonest first. */
function sayLeft(failed: { reason: string }[], of: number): string {
  const reasons = new Map<string, number>()
  for (const { reason } of failed) reasons.set(reason, (reasons.get(reason) ?? 0) + 1)
  const said = [...reasons].sort(([, a], [, b]) => b - a).map(([why, n]) => (reasons.size > 1 ? `${n}: ${why}` : why))
  return `${failed.length} of ${of} were left as they were. ${said.join(' ')}`
}

export function useActs(
  workspaceId: Ref<number>,
  after: (conversation: number, seq: number | undefined, sheet?: Sheet | null) => void,
) {
  const session = useSession()
  const kept = computed(() => `sorta-undo-${session.session?.member_id ?? 0}-${workspaceId.value}`)
  const stack = ref<DoneAct[]>([])
  watch(kept, (key) => (stack.value = JSON.parse(sessionStorage.getItem(key) ?? '[]') as DoneAct[]), {
    immediate: true,
  })
  /** What the line at the bottom says: what was just done, or just taken back. */
  const done = ref<DoneAct | null>(null)
  const takenBack = ref<string | null>(null)
  const problem = ref<string | null>(null)
  /** What is asked of the network, and undo: not twice at once. */
  const underWay = new Set<string>()
  /** Acts on their way, by conversation and kind: the same twice is one, and another goes after it, or they might be done in the wrong order. */
  const newest = new Map<string, { said: string; acted: Acted }>()
  /** All of them: what is taken back waits for them, for it may be one of them. */
  const onTheirWay = new Set<Acted>()
  let timer: ReturnType<typeof setTimeout> | undefined

  const at = (conversation: number) => ({
    params: { path: { workspace_id: workspaceId.value, conversation_id: conversation } },
  })
  function put(acts: DoneAct[]): void {
    stack.value = acts.slice(-MOST_KEPT)
    sessionStorage.setItem(kept.value, JSON.stringify(stack.value))
  }
  function show(act: DoneAct | null, back: string | null = null): void {
    clearTimeout(timer)
    done.value = act
    takenBack.value = back
    timer = setTimeout(() => (done.value = takenBack.value = null), session.undoLineFor)
  }
  function remember(act: DoneAct): void {
    const { begun = Infinity } = act
    const later = stack.value.findIndex((a) => (a.begun ?? 0) > begun)
    put(later < 0 ? [...stack.value, act] : stack.value.toSpliced(later, 0, act))
    show(stack.value.at(-1) ?? null)
  }
  onScopeDispose(() => clearTimeout(timer))

  async function guard<T>(work: () => Promise<T>): Promise<T | null> {
    try {
      problem.value = null
      return await work()
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = error.message
      return null
    }
  }

  async function ask(aim: Aim, body: Act, words: string, isAhead: boolean, begun: number): Acted {
    try {
      const made = await take(
        api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/acts', {
          ...at(aim.id),
          // What an act makes of a conversation comes with the answer, where somebody looks at it.
          body: { act: body, seen_seq: aim.seq, with_sheet: !isAhead },
          // It is done also where the page is closed at once.
          keepalive: isAhead,
        }),
      )
      remember({ conversation: aim.id, seq: made.seq, words, begun })
      after(aim.id, made.seq, made.sheet)
      return null
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      return error
    }
  }
  /** Do one thing; `words` say it in the undo line. Whoever calls it says a refusal, and may go on to the next without waiting for one. */
  function act(aim: Aim, body: Act, words: string, isAhead = false): Acted {
    const name = `${aim.id} ${body.act}`
    const said = JSON.stringify(body)
    const before = newest.get(name)
    if (before?.said === said) return Promise.resolve(undefined)
    problem.value = null
    const begun = Date.now()
    const begin = (): Acted => ask(aim, body, words, isAhead, begun)
    const mine = { said, acted: before ? before.acted.then(begin, begin) : begin() }
    newest.set(name, mine)
    onTheirWay.add(mine.acted)
    return mine.acted.finally(() => {
      onTheirWay.delete(mine.acted)
      if (newest.get(name) === mine) newest.delete(name)
    })
  }

  /** Ask the network for something. True when it was asked. */
  async function moderate(message: number, what: Moderation, words: string): Promise<boolean> {
    const name = `message ${message} ${what}`
    if (underWay.has(name)) return false
    underWay.add(name)
    const made = await guard(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/messages/{message_id}/moderation', {
          params: { path: { workspace_id: workspaceId.value, message_id: message } },
          body: { what },
        }),
      ),
    )
    underWay.delete(name)
    if (made) {
      remember({ conversation: made.conversation_id, seq: made.seq, words })
      after(made.conversation_id, made.seq)
    }
    return made !== null
  }

  /** A message in our language, kept beside it. */
  async function translate(message: number): Promise<boolean> {
    const made = await guard(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/messages/{message_id}/translation', {
          params: { path: { workspace_id: workspaceId.value, message_id: message } },
          body: { language: session.ownLanguage },
        }),
      ),
    )
    return made !== null
  }

  const progress = ref<{ done: number; of: number } | null>(null)
  /** The same to several, some at a time; what failed is said with its reasons. Those it was done to, with their numbers. */
  async function tryOnMany(aims: Aim[], body: Act): Promise<{ id: number; seq: number }[]> {
    if (progress.value) return []
    const done: { id: number; seq: number }[] = []
    const failed: { id: number; reason: string }[] = []
    progress.value = { done: 0, of: aims.length }
    await guard(async () => {
      for (let at = 0; at < aims.length; at += AT_ONCE) {
        const report = await take(
          api.POST('/api/workspaces/{workspace_id}/acts', {
            params: { path: { workspace_id: workspaceId.value } },
            body: { on: aims.slice(at, at + AT_ONCE).map((a) => ({ id: a.id, seen_seq: a.seq })), act: body },
          }),
        )
        done.push(...report.done)
        failed.push(...report.failed)
        progress.value = { done: Math.min(at + AT_ONCE, aims.length), of: aims.length }
      }
    })
    progress.value = null
    if (failed.length) problem.value = sayLeft(failed, aims.length)
    return done
  }
  /** The same, to be taken back as one. Those it was done to. */
  async function actOnMany(aims: Aim[], body: Act, words: string): Promise<number[]> {
    const done = await tryOnMany(aims, body)
    const first = done[0]
    if (first) remember({ conversation: first.id, seq: first.seq, words: `${done.length}: ${words}`, many: done })
    return done.map((d) => d.id)
  }
  /** Those that are selected, as a table of another program. */
  async function takeOut(ids: number[], form: 'csv' | 'xlsx'): Promise<boolean> {
    const file = await guard(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/conversations/export', {
          params: { path: { workspace_id: workspaceId.value } },
          body: { ids, form },
          parseAs: 'blob',
        }),
      ),
    )
    if (file) saveFile(file as unknown as Blob, `selected.${form}`)
    return file !== null
  }

  async function undoMany(acts: { id: number; seq: number }[]): Promise<boolean> {
    const made = await guard(async () => {
      const failed: string[] = []
      for (let at = 0; at < acts.length; at += AT_ONCE) {
        const report = await take(
          api.POST('/api/workspaces/{workspace_id}/undo', {
            params: { path: { workspace_id: workspaceId.value } },
            body: { acts: acts.slice(at, at + AT_ONCE) },
          }),
        )
        failed.push(...report.failed.map((f) => f.reason))
      }
      if (failed.length)
        problem.value = `${failed.length} of ${acts.length} could not be taken back: ${[...new Set(failed)].join(' ')}`
      return true
    })
    return made !== null
  }

  /** Take back one act; the text of a reply of one's own that was taken back. */
  async function takeBack(act: DoneAct): Promise<TakenBack | null> {
    if (act.many)
      return (await undoMany(act.many)) ? { conversation: act.conversation, back: null, mode: undefined } : null
    const proposal = act.proposal
    const made = await guard(() =>
      proposal !== undefined
        ? take(
            api.POST('/api/workspaces/{workspace_id}/proposals/{proposal_id}/withdraw', {
              params: { path: { workspace_id: workspaceId.value, proposal_id: proposal } },
            }),
          )
        : take(
            api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/undo', {
              ...at(act.conversation),
              body: { seq: act.seq },
            }),
          ),
    )
    if (!made) return null
    after(act.conversation, undefined)
    return { conversation: act.conversation, back: asCameBack(made), mode: act.mode }
  }
  /** Take back the last act that is still there; one that cannot be is left, with the reason. */
  async function undo(): Promise<TakenBack | null> {
    if (underWay.has('undo')) return null
    underWay.add('undo')
    try {
      const asked = [...onTheirWay]
      await Promise.allSettled(asked)
      // What was to be taken back has not been done: what was done before it stays.
      if (await asked.at(-1)) return null
      const last = stack.value.at(-1)
      if (!last) return null
      put(stack.value.slice(0, -1))
      const back = await takeBack(last)
      show(null, back ? last.words : null)
      return back
    } finally {
      underWay.delete('undo')
    }
  }
  /** Take back an act that stands in a trail. */
  async function undoAt(conversation: number, seq: number, mode?: ReplyMode): Promise<TakenBack | null> {
    const back = await takeBack({ conversation, seq, words: '', ...(mode ? { mode } : {}) })
    if (back) {
      put(stack.value.filter((a) => a.conversation !== conversation || a.seq !== seq))
      show(null, 'That act')
    }
    return back
  }

  const dismiss = (): void => {
    problem.value = null
  }

  return {
    stack,
    done,
    takenBack,
    problem,
    progress,
    act,
    moderate,
    translate,
    actOnMany,
    tryOnMany,
    takeOut,
    undo,
    undoAt,
    remember,
    dismiss,
  }
}
export type Acts = ReturnType<typeof useActs>
