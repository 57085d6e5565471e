/** The open conversation, and how much of it its reader has seen. */
import { ref, watch, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Sheet } from '@/api/types'

export function useSheet(workspaceId: Ref<number>, id: Ref<number | null>) {
  const sheet = ref<Sheet | null>(null)
  const problem = ref<ApiProblem | null>(null)
  /** The newest trail number that the author has seen; stands still while something is being written. */
  const seenSeq = ref(0)
  /** Set by the composer: while it holds words, news is pointed out and not taken as seen. */
  const isHolding = ref(false)

  const at = (conversation: number) => ({
    params: { path: { workspace_id: workspaceId.value, conversation_id: conversation } },
  })

  function markSeen(): void {
    const now = sheet.value
    if (!now) return
    seenSeq.value = now.conversation.seq
    void api.PUT('/api/workspaces/{workspace_id}/conversations/{conversation_id}/read', {
      ...at(now.conversation.id),
      body: { seq: now.conversation.seq },
    })
  }

  async function refetch(): Promise<void> {
    const asked = id.value
    if (asked === null) {
      sheet.value = null
      return
    }
    try {
      const found = await take(
        api.GET('/api/workspaces/{workspace_id}/conversations/{conversation_id}', at(asked)),
      )
      if (id.value !== asked) return
      const isOther = sheet.value?.conversation.id !== asked
      sheet.value = found
      problem.value = null
      if (isOther || !isHolding.value) markSeen()
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      if (id.value !== asked) return
      problem.value = error
      if (error.status === 404) sheet.value = null
    }
  }

  watch([workspaceId, id], refetch, { immediate: true })
  return { sheet, problem, seenSeq, isHolding, markSeen, refetch }
}
export type SheetState = ReturnType<typeof useSheet>
