/** Saved views: a name for what the address says of filters and order. */
import { useQuery } from '@pinia/colada'
import type { Ref } from 'vue'
import { api, take } from '@/api/client'
import type { View } from '@/api/types'

export function useViews(workspaceId: Ref<number>) {
  const path = () => ({ workspace_id: workspaceId.value })
  const { data: views, refetch } = useQuery<View[]>({
    key: () => ['views', workspaceId.value],
    query: () => take(api.GET('/api/workspaces/{workspace_id}/views', { params: { path: path() } })),
    staleTime: 30_000,
  })
  async function save(name: string, shared: boolean, query: Record<string, string | string[]>): Promise<void> {
    await take(
      api.POST('/api/workspaces/{workspace_id}/views', { params: { path: path() }, body: { name, shared, query } }),
    )
    await refetch()
  }
  async function forget(view: View): Promise<void> {
    await take(
      api.DELETE('/api/workspaces/{workspace_id}/views/{view_id}', {
        params: { path: { ...path(), view_id: view.id } },
      }),
    )
    await refetch()
  }
  return { views, save, forget }
}
