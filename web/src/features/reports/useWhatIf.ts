/** Days played again: asked for, followed while they are played, stopped, forgotten. */
import { computed, onScopeDispose, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ApiProblem, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { NewWhatIf, PlayedWhatIf } from '@/api/types'
import { useAsk } from '@/composables/useAsk'
import { useSession } from '@/stores/session'

const LOOK_MS = 900

export function useWhatIf() {
  const session = useSession()
  const route = useRoute()
  const router = useRouter()
  const path = computed(() => ({ workspace_id: session.workspaceId }))
  const { data, ask, refetch } = useAsk<PlayedWhatIf[]>('What was asked before', {
    key: () => ['what-if', session.workspaceId],
    query: () => take(api.GET('/api/workspaces/{workspace_id}/what-if', { params: { path: path.value } })),
    staleTime: 0,
    enabled: () => session.may('see_reports'),
  })
  /** Those that are being played, as they were when last looked at. */
  const followed = ref<Record<number, PlayedWhatIf>>({})
  const all = computed(() => data.value?.map((one) => followed.value[one.id] ?? one))
  const shown = computed(() => {
    const id = Number(route.params.played)
    return all.value?.find((one) => one.id === id) ?? null
  })
  const isPlaying = (one: PlayedWhatIf): boolean => one.state === 'waiting' || one.state === 'running'
  let timer: ReturnType<typeof setTimeout> | undefined
  async function look(ids: number[]): Promise<void> {
    try {
      const found = await Promise.all(
        ids.map((id) =>
          take(
            api.GET('/api/workspaces/{workspace_id}/what-if/{what_if_id}', {
              params: { path: { ...path.value, what_if_id: id } },
            }),
          ),
        ),
      )
      followed.value = { ...followed.value, ...Object.fromEntries(found.map((one) => [one.id, one])) }
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      // Somebody may have stopped it: the list says, or says what is wrong.
      followed.value = {}
      await refetch()
    }
  }
  watch(all, (now) => {
    clearTimeout(timer)
    const ids = now?.filter(isPlaying).map((one) => one.id) ?? []
    if (ids.length) timer = setTimeout(() => void look(ids), LOOK_MS)
  })
  onScopeDispose(() => clearTimeout(timer))

  const { problem, attempt, attemptFor } = useAttempt(refetch)
  const open = (id: number | null): unknown =>
    router.push({ name: 'what-if', params: { workspace: String(session.workspaceId), played: id ? String(id) : '' } })
  async function start(body: NewWhatIf): Promise<void> {
    const made = await attemptFor(() =>
      take(api.POST('/api/workspaces/{workspace_id}/what-if', { params: { path: path.value }, body })),
    )
    if (made) open(made.id)
  }
  async function forget(one: PlayedWhatIf): Promise<void> {
    if (shown.value?.id === one.id) open(null)
    await attempt(() =>
      take(
        api.DELETE('/api/workspaces/{workspace_id}/what-if/{what_if_id}', {
          params: { path: { ...path.value, what_if_id: one.id } },
        }),
      ),
    )
  }
  return { session, all, ask, shown, isPlaying, problem, start, forget, open }
}
