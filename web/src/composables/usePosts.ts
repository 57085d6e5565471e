/** Posts of ours that people have spoken under, the most lately spoken under first. */
import { useAsk } from '@/composables/useAsk'
import { computed } from 'vue'
import { api, take } from '@/api/client'
import type { PostChoice } from '@/api/types'
import { useSession } from '@/stores/session'

export function usePosts() {
  const session = useSession()
  const { data: posts } = useAsk<PostChoice[]>('The list of posts', {
    key: () => ['posts', session.workspaceId],
    query: () =>
      take(
        api.GET('/api/workspaces/{workspace_id}/posts', { params: { path: { workspace_id: session.workspaceId } } }),
      ),
  })
  const sayPost = (post: PostChoice): string => {
    const words = post.title || post.body
    return words.length > 60 ? `${words.slice(0, 59)}…` : words
  }
  const byPost = computed(() => new Map((posts.value ?? []).map((p) => [p.id, p])))
  return { posts, byPost, sayPost }
}
