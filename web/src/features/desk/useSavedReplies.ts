/** The saved replies that fit the open conversation, and of them those that are suggested. */
import { useAsk } from '@/composables/useAsk'
import { computed, type Ref } from 'vue'
import { api, take } from '@/api/client'
import type { OfferedReply, Sheet } from '@/api/types'

const MOST_SUGGESTED = 3

export function useSavedReplies(
  workspaceId: Ref<number>,
  sheet: Ref<Sheet | null | undefined>,
  mayWrite: Ref<boolean>,
) {
  const { data } = useAsk<OfferedReply[]>('Saved replies', {
    // What they said last decides what is suggested, so that a new message asks again.
    key: () => [
      'offered',
      workspaceId.value,
      sheet.value?.conversation.id ?? 0,
      sheet.value?.messages.findLast((m) => m.inbound)?.id ?? 0,
    ],
    query: () =>
      take(
        api.GET('/api/workspaces/{workspace_id}/conversations/{conversation_id}/saved-replies', {
          params: { path: { workspace_id: workspaceId.value, conversation_id: sheet.value?.conversation.id ?? 0 } },
        }),
      ),
    enabled: () => mayWrite.value && sheet.value != null,
  })
  const offered = computed(() => data.value ?? [])
  const suggested = computed(() => offered.value.filter((o) => o.suggestion).slice(0, MOST_SUGGESTED))
  return { offered, suggested }
}
