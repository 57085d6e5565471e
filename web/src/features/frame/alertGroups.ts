/** What one was told, as one reads it: what is about the same conversation, or of the same occasion, stands together. */
import type { RouteLocationRaw } from 'vue-router'
import type { Alerts } from '@/api/types'

export type Alert = Alerts['alerts'][number]
export interface AlertGroup {
  key: string
  alerts: Alert[]
  to: RouteLocationRaw | null
}

/** Where something leads that is about no conversation. */
const PLACES: Record<string, RouteLocationRaw> = {
  approval: { name: 'approvals' },
  follow_up: { name: 'people', query: { follow_up: 'true' } },
  account: { name: 'outgoing' },
  not_out: { name: 'outgoing' },
  standing_still: { name: 'setup' },
  unusual: { name: 'overview' },
  rule_off: { name: 'rules' },
}

/** In the order of their newest, which the list is in already. */
export function groupAlerts(alerts: Alert[], workspace: string): AlertGroup[] {
  const groups = new Map<string, AlertGroup>()
  for (const one of alerts) {
    const key = one.conversation_id === null ? one.occasion : `c${one.conversation_id}`
    const place = PLACES[one.occasion]
    const to: RouteLocationRaw | null =
      one.conversation_id !== null
        ? { name: 'desk', params: { workspace, conversation: String(one.conversation_id) } }
        : place
          ? { ...(place as object), params: { workspace } }
          : null
    const known = groups.get(key)
    if (known) known.alerts.push(one)
    else groups.set(key, { key, alerts: [one], to })
  }
  return [...groups.values()]
}
