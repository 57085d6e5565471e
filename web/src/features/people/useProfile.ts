/** One person's record and what can be done to it. */
import { useAsk } from '@/composables/useAsk'
import { ref, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Profile } from '@/api/types'

export function useProfile(workspaceId: Ref<number>, personId: Ref<number | null>) {
  const problem = ref<string | null>(null)
  const path = () => ({ workspace_id: workspaceId.value, person_id: personId.value ?? 0 })
  const {
    data: profile,
    error,
    refetch,
  } = useAsk<Profile>('This person', {
    key: () => ['person', workspaceId.value, personId.value ?? 0],
    query: () => take(api.GET('/api/workspaces/{workspace_id}/people/{person_id}', { params: { path: path() } })),
    enabled: () => personId.value !== null,
  })

  /** Do something and show how it stands then; a refusal stays where it happened. */
  async function act(work: () => Promise<unknown>): Promise<boolean> {
    try {
      problem.value = null
      await work()
      await refetch()
      return true
    } catch (refusal) {
      if (!(refusal instanceof ApiProblem)) throw refusal
      problem.value = refusal.message
      return false
    }
  }
  const P = '/api/workspaces/{workspace_id}/people/{person_id}' as const
  return {
    profile,
    error,
    problem,
    refetch,
    addFact: (name: string, value: string) =>
      act(() => take(api.POST(`${P}/facts`, { params: { path: path() }, body: { name, value } }))),
    deleteFact: (id: number) =>
      act(() => take(api.DELETE(`${P}/facts/{fact_id}`, { params: { path: { ...path(), fact_id: id } } }))),
    setTag: (name: string, on: boolean) =>
      act(() => take(api.PUT(`${P}/tags`, { params: { path: path() }, body: { name, on } }))),
    addFollowUp: (words: string, due: string, member: number) =>
      act(() =>
        take(
          api.POST(`${P}/follow-ups`, { params: { path: path() }, body: { words, due_at: due, member_id: member } }),
        ),
      ),
    setDone: (id: number, done: boolean) =>
      act(() =>
        take(
          api.PUT('/api/workspaces/{workspace_id}/follow-ups/{follow_up_id}', {
            params: { path: { workspace_id: workspaceId.value, follow_up_id: id } },
            body: { done },
          }),
        ),
      ),
    join: (other: number) =>
      act(() => take(api.POST(`${P}/joins`, { params: { path: path() }, body: { person_id: other } }))),
    takeApart: (id: number) =>
      act(() =>
        take(
          api.DELETE('/api/workspaces/{workspace_id}/joins/{join_id}', {
            params: { path: { workspace_id: workspaceId.value, join_id: id } },
          }),
        ),
      ),
    block: (message: number, blocked: boolean) =>
      act(() =>
        take(
          api.POST('/api/workspaces/{workspace_id}/messages/{message_id}/moderation', {
            params: { path: { workspace_id: workspaceId.value, message_id: message } },
            body: { what: blocked ? 'block' : 'unblock' },
          }),
        ),
      ),
  }
}
export type ProfileState = ReturnType<typeof useProfile>
