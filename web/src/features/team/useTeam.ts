/** The team and what it has in hand; passing work across; failures come back as words. */
import { useAsk } from '@/composables/useAsk'
import { computed, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { Availability, ProposedPass, TeamState, WorkItem } from '@/api/types'

const AT_ONCE = 50

export function useTeam(workspaceId: Ref<number>) {
  const path = computed(() => ({ workspace_id: workspaceId.value }))
  const { data: team, refetch: refetchTeam } = useAsk<TeamState>('The team', {
    key: () => ['team', workspaceId.value],
    query: () => take(api.GET('/api/workspaces/{workspace_id}/team', { params: { path: path.value } })),
  })
  const { data: work, refetch: refetchWork } = useAsk<WorkItem[]>('The work in hand', {
    key: () => ['work', workspaceId.value],
    query: () => take(api.GET('/api/workspaces/{workspace_id}/team/work', { params: { path: path.value } })),
  })
  const refetch = (): Promise<unknown> => Promise.all([refetchTeam(), refetchWork()])

  const { problem, attempt, attemptFor } = useAttempt(refetch)
  /** Give conversations to a member; those that were given, for taking it back. */
  async function pass(ids: number[], memberId: number): Promise<{ id: number; seq: number }[]> {
    const done: { id: number; seq: number }[] = []
    const failed: string[] = []
    await attempt(async () => {
      for (let at = 0; at < ids.length; at += AT_ONCE) {
        const report = await take(
          api.POST('/api/workspaces/{workspace_id}/acts', {
            params: { path: path.value },
            // Whose it is can be changed whatever was said meanwhile.
            body: {
              on: ids.slice(at, at + AT_ONCE).map((id) => ({ id, seen_seq: 0 })),
              act: { act: 'assign', owner_id: memberId },
            },
          }),
        )
        done.push(...report.done)
        failed.push(...report.failed.map((f) => f.reason))
      }
    })
    if (failed.length) problem.value = `${failed.length} stayed where they were: ${[...new Set(failed)].join(' ')}`
    return done
  }
  const undo = (acts: { id: number; seq: number }[]) =>
    attempt(async () => {
      for (let at = 0; at < acts.length; at += AT_ONCE) {
        const report = await take(
          api.POST('/api/workspaces/{workspace_id}/undo', {
            params: { path: path.value },
            body: { acts: acts.slice(at, at + AT_ONCE) },
          }),
        )
        const [first] = report.failed
        if (first) throw new ApiProblem({ type: '', title: '', status: 409, detail: first.reason, instance: '' })
      }
    })
  const propose = (): Promise<ProposedPass[] | null> =>
    attemptFor(() => take(api.GET('/api/workspaces/{workspace_id}/team/even', { params: { path: path.value } })))
  const setAvailability = (memberId: number, body: Availability) =>
    attempt(async () => {
      await take(
        api.PUT('/api/workspaces/{workspace_id}/team/members/{member_id}', {
          params: { path: { ...path.value, member_id: memberId } },
          body,
        }),
      )
    })
  const setWay = (teamId: number, way: TeamState['teams'][number]['way']) =>
    attempt(() =>
      take(
        api.PUT('/api/workspaces/{workspace_id}/team/teams/{team_id}', {
          params: { path: { ...path.value, team_id: teamId } },
          body: { way },
        }),
      ),
    )
  return { team, work, problem, refetch, pass, undo, propose, setAvailability, setWay }
}
