/** The cross-tab: what is counted by what, its values in their order with their words, and where a cell leads. */
import { useAsk } from '@/composables/useAsk'
import { computed, type Ref } from 'vue'
import { api, take } from '@/api/client'
import type { Cross, Dimension, Move } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { BANDS } from '@/lib/bands'
import { SENTIMENTS } from '@/lib/filters'
import { KINDS, MOVES, PRIORITIES } from '@/lib/words'

export const DIMENSIONS: [Dimension, string][] = [
  ['account', 'Account'],
  ['kind', 'Kind'],
  ['tag', 'Tag'],
  ['owner', 'Owner'],
  ['team', 'Team'],
  ['priority', 'Priority'],
  ['move', 'Move'],
  ['band', 'Due'],
  ['sentiment', 'Sentiment'],
]
export const isDimension = (value: unknown): value is Dimension => DIMENSIONS.some(([key]) => key === value)
/** What cannot be filtered by on the desk: a conversation without that thing, but for one without an owner. */
const NONE: Partial<Record<Dimension, string>> = {
  owner: 'Nobody yet',
  tag: 'No tag',
  team: 'No team',
  sentiment: 'Not read',
}

export function useCross(
  workspaceId: Ref<number>,
  rows: Ref<Dimension>,
  columns: Ref<Dimension>,
  move: Ref<Move | null>,
) {
  const { members, accounts, directory } = useDirectory()
  const query = computed(() => ({
    rows: rows.value,
    columns: columns.value,
    ...(move.value ? { move: move.value } : {}),
  }))
  const { data, error, refetch } = useAsk<Cross>('The overview', {
    key: () => ['overview', workspaceId.value, JSON.stringify(query.value)],
    query: () =>
      take(
        api.GET('/api/workspaces/{workspace_id}/overview', {
          params: { path: { workspace_id: workspaceId.value }, query: query.value },
        }),
      ),
    placeholderData: (before) => before,
  })

  /** Every value there can be, in the order the work has it; what has none comes last. */
  function listValues(of: Dimension): [string, string][] {
    switch (of) {
      case 'account':
        return (accounts.value ?? []).map((a) => [String(a.id), `${a.network_name}, ${a.name}`])
      case 'kind':
        return Object.entries(KINDS)
      case 'tag':
        return (directory.value?.tags ?? []).map((t) => [String(t.id), t.name])
      case 'owner':
        return (members.value ?? []).map((m) => [String(m.id), m.name])
      case 'team':
        return (directory.value?.teams ?? []).map((t) => [String(t.id), t.name])
      case 'priority':
        return PRIORITIES.map((word, n): [string, string] => [String(n), word]).reverse()
      case 'move':
        return MOVES.filter(([k]) => k !== 'settled').map(([k, word]) => [k, word])
      case 'band':
        return BANDS.map(([k, word]) => [k, word])
      case 'sentiment':
        return Object.entries(SENTIMENTS).sort(([a], [b]) => Number(a) - Number(b))
    }
  }
  const shown = (of: Dimension, sums: { value: string }[]): [string, string][] => {
    const have = new Set(sums.map((s) => s.value))
    return [...listValues(of), ['', NONE[of] ?? 'None'] as [string, string]].filter(([v]) => have.has(v))
  }
  const rowValues = computed(() => (data.value ? shown(rows.value, data.value.row_sums) : []))
  const columnValues = computed(() => (data.value ? shown(columns.value, data.value.column_sums) : []))
  const cells = computed(() => new Map((data.value?.cells ?? []).map((c) => [`${c.row} ${c.column}`, c])))
  const rowSums = computed(() => new Map((data.value?.row_sums ?? []).map((s) => [s.value, s])))
  const columnSums = computed(() => new Map((data.value?.column_sums ?? []).map((s) => [s.value, s])))

  /** The desk's address for a cell, a row's or a column's sum; null where the desk has no such filter. */
  function lead(...parts: [Dimension, string][]): Record<string, string> | null {
    const asked: Record<string, string> = move.value ? { move: move.value } : {}
    for (const [of, value] of parts) {
      if (value === '' && of !== 'owner') return null
      asked[of] = of === 'owner' && value === '' ? 'nobody' : value
    }
    return asked.move ? asked : null
  }
  return { data, error, refetch, rowValues, columnValues, cells, rowSums, columnSums, lead }
}
