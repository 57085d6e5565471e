/** The saved replies that fit the open conversation, and of them those that are suggested. */
import { useAsk } from '@/composables/useAsk'
import { afterPaint } from '@/lib/afterPaint'
import { computed, shallowRef, watch, type Ref } from 'vue'
import { api, take } from '@/api/client'
import type { OfferedReply, Sheet } from '@/api/types'

const MOST_SUGGESTED = 3

export function useSavedReplies(
  workspaceId: Ref<number>,
  sheet: Ref<Sheet | null | undefined>,
  mayWrite: Ref<boolean>,
) {
  // What they said last decides what is suggested, so that a new message asks again.
  const shown = computed(() => ({
    conversation: sheet.value?.conversation.id ?? 0,
    message: sheet.value?.messages.findLast((m) => m.inbound)?.id ?? 0,
  }))
  /** They are read after the conversation itself, and whoever walks past it has no use for them. */
  const asked = shallowRef(shown.value)
  watch(shown, () => afterPaint(() => (asked.value = shown.value)))
  const isAsked = computed(() => asked.value.conversation === shown.value.conversation)
  const { data } = useAsk<OfferedReply[]>('Saved replies', {
    key: () => ['offered', workspaceId.value, asked.value.conversation, asked.value.message],
    query: () =>
      take(
        api.GET('/api/workspaces/{workspace_id}/conversations/{conversation_id}/saved-replies', {
          params: { path: { workspace_id: workspaceId.value, conversation_id: asked.value.conversation } },
        }),
      ),
    enabled: () => mayWrite.value && asked.value.conversation !== 0,
  })
  const offered = computed(() => (isAsked.value && data.value) || [])
  const suggested = computed(() => offered.value.filter((o) => o.suggestion).slice(0, MOST_SUGGESTED))
  return { offered, suggested }
}
