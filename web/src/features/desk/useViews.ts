/** Saved views: a name for what the address says of filters and order. */
import { useAsk } from '@/composables/useAsk'
import type { Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
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
  async function attempt(call: Promise<unknown>): Promise<void> {
    try {
      await call
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      onProblem(error.message)
    }
    await refetch()
  }
  const save = (name: string, shared: boolean, query: Record<string, string | string[]>): Promise<void> =>
    attempt(
      take(
        api.POST('/api/workspaces/{workspace_id}/views', { params: { path: path() }, body: { name, shared, query } }),
      ),
    )
  const forget = (view: View): Promise<void> =>
    attempt(
      take(
        api.DELETE('/api/workspaces/{workspace_id}/views/{view_id}', {
          params: { path: { ...path(), view_id: view.id } },
        }),
      ),
    )
  return { views, save, forget }
}
