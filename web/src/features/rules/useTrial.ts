/** A rule tried on the past: started, followed while it runs, cancelled. */
import { onScopeDispose, ref, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { RuleBody, Trial } from '@/api/types'

const LOOK_MS = 700

export function useTrial(workspaceId: Ref<number>) {
  const trial = ref<Trial | null>(null)
  const problem = ref<string | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined
  const PAGE = 50
  /** How many messages are shown, and whether only those for which something else comes out. */
  const shown = ref(PAGE)
  const onlyDiffering = ref(true)
  const at = (id: number) => ({ params: { path: { workspace_id: workspaceId.value, trial_id: id } } })

  async function guard(work: () => Promise<void>): Promise<void> {
    try {
      problem.value = null
      await work()
    } catch (caught) {
      if (!(caught instanceof ApiProblem)) throw caught
      problem.value = caught.message
    }
  }
  async function look(id: number): Promise<void> {
    clearTimeout(timer)
    await guard(async () => {
      const query = { limit: shown.value, differing: onlyDiffering.value }
      const { path } = at(id).params
      trial.value = await take(api.GET('/api/workspaces/{workspace_id}/trials/{trial_id}', { params: { path, query } }))
      if (trial.value.state === 'waiting' || trial.value.state === 'running')
        timer = setTimeout(() => void look(id), LOOK_MS)
      else if (trial.value.result?.differing === 0 && onlyDiffering.value) await showOnlyDiffering(false)
    })
  }
  async function start(ruleId: number, body: RuleBody, days: number): Promise<void> {
    await cancel()
    shown.value = PAGE
    onlyDiffering.value = true
    await guard(async () => {
      const made = await take(
        api.POST('/api/workspaces/{workspace_id}/trials', {
          params: { path: { workspace_id: workspaceId.value } },
          body: { rule_id: ruleId, body, days },
        }),
      )
      await look(made.id)
    })
  }
  async function cancel(): Promise<void> {
    clearTimeout(timer)
    const running = trial.value
    trial.value = null
    if (running && (running.state === 'waiting' || running.state === 'running'))
      await guard(() => take(api.DELETE('/api/workspaces/{workspace_id}/trials/{trial_id}', at(running.id))))
  }
  async function showMore(): Promise<void> {
    shown.value = Math.min(5000, shown.value + 10 * PAGE)
    if (trial.value) await look(trial.value.id)
  }
  async function showOnlyDiffering(only: boolean): Promise<void> {
    onlyDiffering.value = only
    shown.value = PAGE
    if (trial.value) await look(trial.value.id)
  }
  onScopeDispose(() => clearTimeout(timer))
  return { trial, problem, start, cancel, onlyDiffering, showMore, showOnlyDiffering }
}
