/** The list of people: filters and order from the address, page after page. */
import { computed, ref, watch, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { PersonRow } from '@/api/types'

const PAGE = 60
export const PEOPLE_ORDERS = [
  ['standing', 'Standing first'],
  ['lately', 'Lately heard first'],
  ['name', 'By name'],
] as const
export type PeopleOrder = (typeof PEOPLE_ORDERS)[number][0]
export interface PeopleFilters {
  words?: string
  tag?: number[]
  network?: string[]
  blocked?: true
  follow_up?: true
  standing?: number
  reach?: number
}

export function readPeopleFilters(query: Record<string, unknown>): PeopleFilters {
  const list = (value: unknown): string[] =>
    (Array.isArray(value) ? value : [value]).filter((v): v is string => typeof v === 'string' && v !== '')
  const set: PeopleFilters = {}
  if (list(query.words)[0]) set.words = list(query.words)[0] as string
  if (list(query.tag).length) set.tag = list(query.tag).map(Number)
  if (list(query.network).length) set.network = list(query.network)
  if (query.blocked === 'true') set.blocked = true
  if (query.follow_up === 'true') set.follow_up = true
  if (Number(query.standing)) set.standing = Number(query.standing)
  if (Number(query.reach)) set.reach = Number(query.reach)
  return set
}

export function usePeople(workspaceId: Ref<number>, filters: Ref<PeopleFilters>, order: Ref<PeopleOrder>) {
  const rows = ref<PersonRow[]>([])
  const total = ref<number | null>(null)
  const ended = ref(false)
  const problem = ref<string | null>(null)
  const asked = computed(() => ({ ...filters.value, order: order.value }))
  let turn = 0

  async function fetchPage(after?: string): Promise<void> {
    const mine = ++turn
    try {
      problem.value = null
      const page = await take(
        api.GET('/api/workspaces/{workspace_id}/people', {
          params: {
            path: { workspace_id: workspaceId.value },
            query: { ...asked.value, limit: PAGE, ...(after ? { after } : {}) },
          },
        }),
      )
      if (mine !== turn) return
      rows.value = after ? [...rows.value, ...page.persons] : page.persons
      if (page.total !== null) total.value = page.total
      ended.value = page.persons.length < PAGE
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = error.message
    }
  }
  const reload = (): Promise<void> => fetchPage()
  async function more(): Promise<void> {
    const last = rows.value.at(-1)
    if (last && !ended.value) await fetchPage(last.place)
  }
  watch([workspaceId, () => JSON.stringify(asked.value)], () => void reload(), { immediate: true })
  return { rows, total, ended, problem, reload, more, asked }
}
export type People = ReturnType<typeof usePeople>
