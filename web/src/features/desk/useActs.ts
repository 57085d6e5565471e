/** Doing things to a conversation, and the line that takes the last one back. */
import { onScopeDispose, ref, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Act } from '@/api/types'

const UNDO_MS = 10_000

export interface DoneAct {
  conversation: number
  seq: number
  words: string
}

export function useActs(workspaceId: Ref<number>, after: (conversation: number) => void) {
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
      after(conversation)
    }
    return made !== null
  }

  /** Take the last act back; the text of a reply that was taken back. */
  async function undo(): Promise<{ conversation: number; text: string | null } | null> {
    const last = done.value
    if (!last) return null
    done.value = null
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
    return { conversation: last.conversation, text: made.text }
  }

  const dismiss = (): void => {
    problem.value = null
  }

  return { done, problem, act, undo, remember, dismiss }
}
export type Acts = ReturnType<typeof useActs>
