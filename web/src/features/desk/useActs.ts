/** Doing things to a conversation, and the line that takes the last one back. */
import { onScopeDispose, ref, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Act, Attachment, CameBack, Moderation } from '@/api/types'

const UNDO_MS = 10_000
/** Only an answer says something when it is taken back. */
const asCameBack = (back: { text?: string | null; attachments?: Attachment[] }): CameBack | null =>
  back.text == null ? null : { text: back.text, attachments: back.attachments ?? [] }

export interface DoneAct {
  conversation: number
  seq: number
  words: string
  /** When one act was done to several: all of them, taken back as one. */
  many?: { id: number; seq: number }[]
  /** An answer that waits for approval is taken back by withdrawing it. */
  proposal?: number
}
const AT_ONCE = 50

export function useActs(workspaceId: Ref<number>, after: (conversation: number, body?: Act) => void) {
  const done = ref<DoneAct | null>(null)
  const problem = ref<string | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined

  const at = (conversation: number) => ({
    params: { path: { workspace_id: workspaceId.value, conversation_id: conversation } },
  })

  function remember(act: DoneAct): void {
    clearTimeout(timer)
    done.value = act
    timer = setTimeout(() => (done.value = null), UNDO_MS)
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

  /** Do one thing; `words` say it in the undo line. True when it was done. */
  async function act(conversation: number, body: Act, words: string): Promise<boolean> {
    const made = await guard(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/acts', {
          ...at(conversation),
          body,
        }),
      ),
    )
    if (made) {
      remember({ conversation, seq: made.seq, words })
      after(conversation, body)
    }
    return made !== null
  }

  /** Ask the network for something. True when it was asked. */
  async function moderate(message: number, what: Moderation, words: string): Promise<boolean> {
    const made = await guard(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/messages/{message_id}/moderation', {
          params: { path: { workspace_id: workspaceId.value, message_id: message } },
          body: { what },
        }),
      ),
    )
    if (made) {
      remember({ conversation: made.conversation_id, seq: made.seq, words })
      after(made.conversation_id)
    }
    return made !== null
  }

  /** A message in our language, kept beside it. */
  async function translate(message: number): Promise<boolean> {
    const made = await guard(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/messages/{message_id}/translation', {
          params: { path: { workspace_id: workspaceId.value, message_id: message } },
          body: { language: 'en' },
        }),
      ),
    )
    return made !== null
  }

  const progress = ref<{ done: number; of: number } | null>(null)
  /** The same to several, some at a time; what failed is said with its reason. Those it was done to. */
  async function actOnMany(ids: number[], body: Act, words: string): Promise<number[]> {
    const done: { id: number; seq: number }[] = []
    const failed: { id: number; reason: string }[] = []
    progress.value = { done: 0, of: ids.length }
    await guard(async () => {
      for (let at = 0; at < ids.length; at += AT_ONCE) {
        const report = await take(
          api.POST('/api/workspaces/{workspace_id}/acts', {
            params: { path: { workspace_id: workspaceId.value } },
            body: { ids: ids.slice(at, at + AT_ONCE), act: body },
          }),
        )
        done.push(...report.done)
        failed.push(...report.failed)
        progress.value = { done: Math.min(at + AT_ONCE, ids.length), of: ids.length }
      }
    })
    progress.value = null
    const first = done[0]
    if (first) remember({ conversation: first.id, seq: first.seq, words: `${done.length}: ${words}`, many: done })
    if (failed.length)
      problem.value = `${failed.length} of ${ids.length} were left as they were: ${[...new Set(failed.map((f) => f.reason))].join(' ')}`
    return done.map((d) => d.id)
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

  /** Take the last act back; the text of a reply that was taken back. */
  async function undo(): Promise<{ conversation: number; back: CameBack | null } | null> {
    const last = done.value
    if (!last) return null
    done.value = null
    if (last.many) return (await undoMany(last.many)) ? { conversation: last.conversation, back: null } : null
    const proposal = last.proposal
    if (proposal !== undefined) {
      const back = await guard(() =>
        take(
          api.POST('/api/workspaces/{workspace_id}/proposals/{proposal_id}/withdraw', {
            params: { path: { workspace_id: workspaceId.value, proposal_id: proposal } },
          }),
        ),
      )
      if (back) after(last.conversation)
      return back && { conversation: last.conversation, back: asCameBack(back) }
    }
    const made = await guard(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/undo', {
          ...at(last.conversation),
          body: { seq: last.seq },
        }),
      ),
    )
    if (!made) return null
    after(last.conversation)
    return { conversation: last.conversation, back: asCameBack(made) }
  }

  const dismiss = (): void => {
    problem.value = null
  }

  return { done, problem, progress, act, moderate, translate, actOnMany, undo, remember, dismiss }
}
export type Acts = ReturnType<typeof useActs>
