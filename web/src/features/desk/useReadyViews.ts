/** The views that stand ready, and how many each view counts; asked for when somebody looks at them. */
import { computed, ref, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { View } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { readFilters, readMove, toApi } from '@/lib/filters'

export type AnyView = Pick<View, 'name' | 'query'> & { key: string; saved?: View }

export function useReadyViews(workspaceId: Ref<number>, me: Ref<number>, views: Ref<View[]>) {
  const { directory } = useDirectory()
  const all = computed<AnyView[]>(() => {
    const teams = (directory.value?.teams ?? []).filter((t) => t.members.includes(me.value)).map((t) => String(t.id))
    return [
      { key: 'mine', name: 'Mine', query: { move: 'our_move', owner: ['me'] } },
      ...(teams.length ? [{ key: 'team', name: 'My team', query: { move: 'our_move', team: teams } }] : []),
      ...views.value.map((v) => ({ key: String(v.id), name: v.name, query: v.query, saved: v })),
    ]
  })
  /** By key; what cannot be counted now has none. */
  const counts = ref(new Map<string, string>())
  async function countOne(view: AnyView): Promise<void> {
    try {
      const query = { move: readMove(view.query), ...toApi(readFilters(view.query)) }
      const path = { workspace_id: workspaceId.value }
      const many = await take(api.GET('/api/workspaces/{workspace_id}/count', { params: { path, query } }))
      counts.value.set(view.key, many.is_more ? `${many.n}+` : String(many.n))
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      counts.value.delete(view.key)
    }
  }
  const count = (): void => all.value.forEach((view) => void countOne(view))
  return { all, counts, count }
}
