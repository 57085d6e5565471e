/** The rules of a workspace and what can be done to them; failures come back as words. */
import { useAsk } from '@/composables/useAsk'
import { computed, ref, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Imported, RuleBody, RuleFile, Rules, RuleVersion, RuleWarning, StoredRule } from '@/api/types'

export function useRules(workspaceId: Ref<number>) {
  const path = computed(() => ({ workspace_id: workspaceId.value }))
  const { data, refetch, ask } = useAsk<Rules>('The rules', {
    key: () => ['rules', workspaceId.value],
    query: () => take(api.GET('/api/workspaces/{workspace_id}/rules', { params: { path: path.value } })),
  })
  const problem = ref<string | null>(null)

  async function attempt<T>(work: () => Promise<T>): Promise<T | null> {
    try {
      problem.value = null
      const made = await work()
      await refetch()
      return made
    } catch (caught) {
      if (!(caught instanceof ApiProblem)) throw caught
      problem.value = caught.message
      if (caught.kind === 'changed-elsewhere') await refetch()
      return null
    }
  }
  const at = (id: number) => ({ params: { path: { ...path.value, rule_id: id } } })

  /** Keep a rule as it is written; its number, null when it was refused. */
  async function save(id: number, version: number, body: RuleBody, on: boolean): Promise<number | null> {
    if (id === 0)
      return (
        (
          await attempt(() =>
            take(
              api.POST('/api/workspaces/{workspace_id}/rules', { params: { path: path.value }, body: { body, on } }),
            ),
          )
        )?.id ?? null
      )
    const done = await attempt(async () => {
      await take(
        api.PATCH('/api/workspaces/{workspace_id}/rules/{rule_id}', { ...at(id), body: { version, body, on } }),
      )
      return true
    })
    return done ? id : null
  }
  const toggle = (rule: StoredRule) =>
    attempt(() =>
      take(
        api.PATCH('/api/workspaces/{workspace_id}/rules/{rule_id}', {
          ...at(rule.id),
          body: { version: rule.version, on: !rule.switched_on },
        }),
      ),
    )
  /** Let a rule that answered too often answer again, counted from now. */
  const letAnswer = (rule: StoredRule) =>
    attempt(() =>
      take(
        api.PATCH('/api/workspaces/{workspace_id}/rules/{rule_id}', {
          ...at(rule.id),
          body: { version: rule.version, answers: true },
        }),
      ),
    )
  const copy = (id: number) =>
    attempt(() => take(api.POST('/api/workspaces/{workspace_id}/rules/{rule_id}/copy', at(id))))
  const remove = (id: number) =>
    attempt(() => take(api.DELETE('/api/workspaces/{workspace_id}/rules/{rule_id}', at(id))))
  /** The order that one sees is the one that is changed; who was faster is told of. */
  const order = (ids: number[]) => {
    const was = (data.value?.rules ?? []).map((r) => r.id)
    return attempt(() =>
      take(api.PUT('/api/workspaces/{workspace_id}/rules/order', { params: { path: path.value }, body: { ids, was } })),
    )
  }
  const fetchVersions = (id: number): Promise<RuleVersion[] | null> =>
    attempt(() => take(api.GET('/api/workspaces/{workspace_id}/rules/{rule_id}/versions', at(id))))
  /** What to know about a rule as it is being written; nothing while it is not whole yet. */
  async function check(id: number, body: RuleBody): Promise<RuleWarning[]> {
    try {
      return await take(
        api.POST('/api/workspaces/{workspace_id}/rules/check', { params: { path: path.value }, body: { id, body } }),
      )
    } catch (caught) {
      if (!(caught instanceof ApiProblem)) throw caught
      return []
    }
  }
  const makeOf = async (conversation: number): Promise<RuleBody | null> =>
    (
      await attempt(() =>
        take(
          api.GET('/api/workspaces/{workspace_id}/conversations/{conversation_id}/rule', {
            params: { path: { ...path.value, conversation_id: conversation } },
          }),
        ),
      )
    )?.body ?? null
  const exportFile = (): Promise<RuleFile> =>
    take(api.GET('/api/workspaces/{workspace_id}/rules/file', { params: { path: path.value } }))
  async function importFile(text: string): Promise<Imported | null> {
    let file: RuleFile
    try {
      file = JSON.parse(text) as RuleFile
    } catch {
      problem.value = 'This file is not JSON.'
      return null
    }
    return attempt(() =>
      take(api.POST('/api/workspaces/{workspace_id}/rules/file', { params: { path: path.value }, body: file })),
    )
  }
  return {
    data,
    ask,
    problem,
    refetch,
    save,
    toggle,
    letAnswer,
    copy,
    remove,
    order,
    fetchVersions,
    check,
    makeOf,
    exportFile,
    importFile,
  }
}
