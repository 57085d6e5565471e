/** The list of people: filters and order from the address, page after page. */
import { useAskPages } from '@/composables/useAsk'
import { computed, type Ref } from 'vue'
import { api, take } from '@/api/client'
import type { PeoplePage } from '@/api/types'

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
  const asked = computed(() => ({ ...filters.value, order: order.value }))
  const { pages, hasMore, more, refetch, ask } = useAskPages<PeoplePage, string>('The people', {
    key: () => ['people', workspaceId.value, JSON.stringify(asked.value)],
    query: (from) =>
      take(
        api.GET('/api/workspaces/{workspace_id}/people', {
          params: {
            path: { workspace_id: workspaceId.value },
            query: { ...asked.value, limit: PAGE, ...(from ? { after: from } : {}) },
          },
        }),
      ),
    next: ({ persons }) => (persons.length < PAGE ? null : (persons.at(-1)?.place ?? null)),
    staleTime: 0,
  })
  const rows = computed(() => pages.value?.flatMap((page) => page.persons) ?? [])
  /** Only the first page says it. */
  const total = computed(() => pages.value?.[0]?.total ?? null)
  return { rows, total, hasMore, more, reload: refetch, ask, asked }
}
export type People = ReturnType<typeof usePeople>
