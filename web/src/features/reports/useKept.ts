/** Reports kept under a name: one's own and shared ones. */
import { useAsk } from '@/composables/useAsk'
import { ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { KeptReport } from '@/api/types'
import { useSession } from '@/stores/session'

export function useKept() {
  const session = useSession()
  const path = () => ({ workspace_id: session.workspaceId })
  const problem = ref('')
  const said = ref('')
  const { data: kept, refetch } = useAsk<KeptReport[]>('The kept reports', {
    key: () => ['kept-reports', session.workspaceId],
    query: () => take(api.GET('/api/workspaces/{workspace_id}/kept-reports', { params: { path: path() } })),
    enabled: () => session.may('see_reports'),
  })
  async function guard(work: () => Promise<unknown>, words: string): Promise<void> {
    try {
      await work()
      problem.value = ''
      said.value = words
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = error.message
    }
    await refetch()
  }
  const keep = (name: string, shared: boolean, query: string): Promise<void> =>
    guard(
      () =>
        take(
          api.POST('/api/workspaces/{workspace_id}/kept-reports', {
            params: { path: path() },
            body: { name, shared, query },
          }),
        ),
      `Kept as ${name}`,
    )
  const forget = (one: KeptReport): Promise<void> =>
    guard(
      () =>
        take(
          api.DELETE('/api/workspaces/{workspace_id}/kept-reports/{kept_id}', {
            params: { path: { ...path(), kept_id: one.id } },
          }),
        ),
      `Forgot ${one.name}`,
    )
  return { kept, problem, said, keep, forget }
}
