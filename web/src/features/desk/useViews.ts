/** Saved views: a name for what the address says of filters and order. */
import { useAsk } from '@/composables/useAsk'
import type { Ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { View } from '@/api/types'
import { takeFirst } from '@/api/first'

export function useViews(workspaceId: Ref<number>, onProblem: (words: string) => void) {
  const path = () => ({ workspace_id: workspaceId.value })
  const { data: views, refetch } = useAsk<View[]>('Saved views', {
    key: () => ['views', workspaceId.value],
    query: () =>
      takeFirst(workspaceId.value, 'views') ??
      take(api.GET('/api/workspaces/{workspace_id}/views', { params: { path: path() } })),
    staleTime: 30_000,
  })
  const { attempt } = useAttempt(refetch, (refusal) => {
    onProblem(refusal.message)
    return true
  })
  const save = (name: string, shared: boolean, query: Record<string, string | string[]>): Promise<boolean> =>
    attempt(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/views', { params: { path: path() }, body: { name, shared, query } }),
      ),
    )
  const forget = (view: View): Promise<boolean> =>
    attempt(() =>
      take(
        api.DELETE('/api/workspaces/{workspace_id}/views/{view_id}', {
          params: { path: { ...path(), view_id: view.id } },
        }),
      ),
    )
  return { views, save, forget }
}
