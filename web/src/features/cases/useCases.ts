/** Cases at support desks: what was handed over, how it stands there, and what the desk says. */
import { useAsk } from '@/composables/useAsk'
import { ref, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Cases, CaseState } from '@/api/types'

export const CASE_STATES: [CaseState, string][] = [
  ['opening', 'On its way'],
  ['open', 'Open'],
  ['waiting', 'Waiting'],
  ['solved', 'Solved'],
  ['returned', 'Given back'],
  ['refused', 'Not taken'],
]
export const CASE_WORDS: Record<string, string> = Object.fromEntries(CASE_STATES)

export interface CaseFilters {
  state?: CaseState[]
  desk?: number
  mine?: true
  words?: string
  conversation?: number
  person?: number
}

export function useCases(workspaceId: Ref<number>, filters: Ref<CaseFilters>) {
  const path = (): { workspace_id: number } => ({ workspace_id: workspaceId.value })
  const { data, refetch, ask } = useAsk<Cases>('The cases', {
    key: () => ['cases', workspaceId.value, JSON.stringify(filters.value)],
    query: () =>
      take(api.GET('/api/workspaces/{workspace_id}/cases', { params: { path: path(), query: filters.value } })),
  })
  const problem = ref<string | null>(null)
  /** Pass on now what waits for a case. */
  async function tryAgain(id: number): Promise<void> {
    try {
      problem.value = null
      await take(
        api.POST('/api/workspaces/{workspace_id}/cases/{case_id}/try', {
          params: { path: { ...path(), case_id: id } },
        }),
      )
    } catch (failed) {
      if (!(failed instanceof ApiProblem)) throw failed
      problem.value = failed.message
    }
    await refetch()
  }
  return { data, ask, problem, refetch, tryAgain }
}
