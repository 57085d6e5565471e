/** Reports kept under a name: one's own and shared ones. */
import { useAsk } from '@/composables/useAsk'
import { ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { KeptReport } from '@/api/types'
import { useSession } from '@/stores/session'

export function useKept() {
  const session = useSession()
  const path = () => ({ workspace_id: session.workspaceId })
  const said = ref('')
  const { data: kept, refetch } = useAsk<KeptReport[]>('The kept reports', {
    key: () => ['kept-reports', session.workspaceId],
    query: () => take(api.GET('/api/workspaces/{workspace_id}/kept-reports', { params: { path: path() } })),
    enabled: () => session.may('see_reports'),
  })
  const { problem, attempt } = useAttempt(refetch)
  async function guard(work: () => Promise<unknown>, words: string): Promise<void> {
    if (await attempt(work)) said.value = words
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
