/** A report as its address asks for it, and the names of what it is broken down by. */
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import type { Report } from '@/api/types'
import { useAsk } from '@/composables/useAsk'
import { useDirectory } from '@/composables/useDirectory'
import { LANGUAGES, sayLanguage, SENTIMENTS } from '@/lib/filters'
import {
  listBehind,
  NARROWED,
  QUARTERS,
  readAddress,
  WEEKDAYS,
  writeAddress,
  type Narrowed,
  type ReportAddress,
} from '@/lib/reports'
import { KINDS, PRIORITIES } from '@/lib/words'
import { useSession } from '@/stores/session'

const NUMBERS: readonly Narrowed[] = [
  'account',
  'member',
  'team',
  'tag',
  'priority',
  'group',
  'person_tag',
  'sentiment',
]
export interface Choice {
  value: string
  text: string
}

export function useReport() {
  const session = useSession()
  const route = useRoute()
  const router = useRouter()
  const { members, accounts, directory, networks } = useDirectory()
  const address = computed<ReportAddress>(() => readAddress(route.query))
  const query = computed(() => {
    const { narrowed, ...rest } = address.value
    const asked: Record<string, unknown> = { ...rest }
    for (const name of NARROWED) {
      const values = narrowed[name]
      if (!values?.length) continue
      if (name === 'public') asked[name] = values[0] === 'true'
      else asked[name] = NUMBERS.includes(name) ? values.map(Number) : values
    }
    return asked
  })
  const { data: report, ask } = useAsk<Report>('The report', {
    key: () => ['report', session.workspaceId, JSON.stringify(query.value)],
    query: () =>
      take(
        api.GET('/api/workspaces/{workspace_id}/report', {
          params: { path: { workspace_id: session.workspaceId }, query: query.value },
        }),
      ),
    placeholderData: (before) => before,
    // Who may not see it is told so, once.
    enabled: () => session.may('see_reports'),
  })
  function set(change: Partial<ReportAddress>): void {
    void router.replace({ query: writeAddress({ ...address.value, ...change }) })
  }
  const narrow = (name: Narrowed, values: string[]): void =>
    set({ narrowed: { ...address.value.narrowed, [name]: values } })

  const choices = computed<Record<Narrowed, Choice[]>>(() => ({
    account: (accounts.value ?? []).map((a) => ({ value: String(a.id), text: `${a.name}, ${a.network_name}` })),
    member: (members.value ?? []).map((m) => ({ value: String(m.id), text: m.name })),
    team: (directory.value?.teams ?? []).map((t) => ({ value: String(t.id), text: t.name })),
    kind: Object.entries(KINDS).map(([value, text]) => ({ value, text })),
    tag: (directory.value?.tags ?? []).map((t) => ({ value: String(t.id), text: t.name })),
    priority: PRIORITIES.map((text, n) => ({ value: String(n), text })).reverse(),
    group: (directory.value?.groups ?? []).map((g) => ({ value: String(g.id), text: g.name })),
    network: (networks.value ?? []).map((n) => ({ value: n.network, text: n.name })),
    person_tag: (directory.value?.tags ?? []).map((t) => ({ value: String(t.id), text: t.name })),
    language: LANGUAGES.map((code) => ({ value: code, text: sayLanguage(code) })),
    sentiment: Object.entries(SENTIMENTS).map(([value, text]) => ({ value, text })),
    public: [
      { value: 'true', text: 'in public' },
      { value: 'false', text: 'in private' },
    ],
  }))
  /** A value of a breakdown in words. */
  function sayKey(by: string, key: string): string {
    if (by === 'weekday') return WEEKDAYS[Number(key)] ?? key
    if (by === 'hours') return QUARTERS[Number(key)] ?? key
    if (by === 'network') return networks.value?.find((n) => n.network === key)?.name ?? key
    if (by === 'sentiment') return SENTIMENTS[key] ?? 'not read'
    if (key === '0' && by !== 'priority')
      return by === 'member' ? 'Nobody, or by itself' : by === 'team' ? 'No team' : 'None'
    return choices.value[by as Narrowed]?.find((c) => c.value === key)?.text ?? `No longer here (${key})`
  }
  const behind = (figure: string, more: Record<string, string> = {}) => ({
    name: 'desk' as const,
    params: { workspace: String(session.workspaceId) },
    query: { report: listBehind(address.value, figure, more) },
  })
  return { session, address, query, report, ask, set, narrow, choices, sayKey, behind }
}
