/** Puts what is being typed on the server: the newest words only, tried again while it cannot be reached. */
import { onScopeDispose, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { KeptDraft } from '@/api/types'

const AGAIN_AFTER = 3000

/** `onKept` hears when a conversation's draft has changed there, `onRefused` why one was not taken. */
export function useDrafts(
  workspaceId: Ref<number>,
  onKept: (conversation: number) => void,
  onRefused: (conversation: number, reason: string) => void,
) {
  /** What the server may not know yet. */
  const held = new Map<number, KeptDraft>()
  let isOver = false
  onScopeDispose(() => (isOver = true))

  async function put(id: number): Promise<void> {
    const path = { workspace_id: workspaceId.value, conversation_id: id }
    for (let draft = held.get(id); draft; draft = held.get(id)) {
      const files = draft.attachments.map((a) => a.id).filter((file) => file != null)
      const body = { mode: draft.mode, body: draft.body, shared: draft.shared, files, account: draft.account }
      try {
        await take(
          api.PUT('/api/workspaces/{workspace_id}/conversations/{conversation_id}/draft', { params: { path }, body }),
        )
      } catch (error) {
        if (!(error instanceof ApiProblem)) throw error
        if (error.status === 0 && !isOver) {
          await new Promise((resolve) => setTimeout(resolve, AGAIN_AFTER))
          continue
        }
        onRefused(id, error.message)
      }
      if (held.get(id) === draft) held.delete(id)
      onKept(id)
    }
  }

  function keep(id: number, draft: KeptDraft): void {
    const isUnderWay = held.has(id)
    held.set(id, draft)
    if (!isUnderWay) void put(id)
  }

  return { keep, newest: (id: number): KeptDraft | undefined => held.get(id) }
}
