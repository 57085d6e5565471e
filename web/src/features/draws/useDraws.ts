/** Prize draws: the list, one in full, and what is done to it. */
import { useAsk } from '@/composables/useAsk'
import { ref, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { DrawInFull, DrawOne, DrawRules, Notified } from '@/api/types'

export function useDraws(workspaceId: Ref<number>, openId: Ref<number | null>) {
  const path = (): { workspace_id: number } => ({ workspace_id: workspaceId.value })
  const { data: draws, refetch: refetchAll } = useAsk<DrawOne[]>('The prize draws', {
    key: () => ['draws', workspaceId.value],
    query: () => take(api.GET('/api/workspaces/{workspace_id}/draws', { params: { path: path() } })),
  })
  const {
    data: draw,
    error,
    refetch: refetchOne,
  } = useAsk<DrawInFull | null>('This draw', {
    key: () => ['draw', workspaceId.value, openId.value ?? 0],
    query: async () =>
      openId.value === null
        ? null
        : take(
            api.GET('/api/workspaces/{workspace_id}/draws/{draw_id}', {
              params: { path: { ...path(), draw_id: openId.value } },
            }),
          ),
  })
  const problem = ref<string | null>(null)
  async function attempt<T>(call: () => Promise<T>): Promise<T | null> {
    try {
      problem.value = null
      return await call()
    } catch (failed) {
      if (!(failed instanceof ApiProblem)) throw failed
      problem.value = failed.message
      return null
    } finally {
      await Promise.all([refetchAll(), refetchOne()])
    }
  }
  const at = (id: number) => ({ params: { path: { ...path(), draw_id: id } } })
  const announce = (post: number, rules: DrawRules): Promise<{ id: number } | null> =>
    attempt(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/draws', { params: { path: path() }, body: { post_id: post, rules } }),
      ),
    )
  const drawNow = (id: number, publicValue: string): Promise<unknown> =>
    attempt(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/draws/{draw_id}/draw', {
          ...at(id),
          body: { public_value: publicValue },
        }),
      ),
    )
  const cancel = (id: number): Promise<unknown> =>
    attempt(() => take(api.DELETE('/api/workspaces/{workspace_id}/draws/{draw_id}', at(id))))
  const notify = (id: number, saved: number, places: number[]): Promise<Notified[] | null> =>
    attempt(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/draws/{draw_id}/notify', {
          ...at(id),
          body: { saved_reply_id: saved, places },
        }),
      ),
    )
  const refetch = (): Promise<unknown> => Promise.all([refetchAll(), refetchOne()])
  return { draws, draw, error, problem, announce, drawNow, cancel, notify, refetch, refetchOne }
}
