/**
 * What the desk shows first, asked for in one request while its own code is still on the way. Each part is taken once by whoever
 * would have asked for it; what is not taken soon, or was asked otherwise, is asked for as ever.
 */
import { api, take } from '@/api/client'
import type { components } from '@/api/schema'
import { orderOf, readFilters, readMove, readOrder, toApi } from '@/lib/filters'

type First = components['schemas']['First']
/** Rows of a page of the queue. */
export const PAGE = 100
const TRUSTED_FOR = 5_000

/** `at` is when the answer was there: on a slow line it and the code that takes it are long on their way. */
let asked: { workspace: number; query: Record<string, unknown>; at?: number; answer: Promise<First> } | null = null
let taken = new Set<keyof First>()

/** Ask, for the desk at this address. */
export function askFirst(workspace: number, address: Record<string, unknown>): void {
  const move = readMove(address)
  const query = { move, ...toApi(readFilters(address)), order: readOrder(address) ?? orderOf(move), limit: PAGE }
  const sent = api.GET('/api/workspaces/{workspace_id}/first', { params: { path: { workspace_id: workspace }, query } })
  const answer = take(sent).then(async (first) => {
    // The session's own word comes apart from what strangers write.
    const csrf = (await sent).response.headers.get('X-CSRF-Token') ?? ''
    return first.session ? { ...first, session: { ...first.session, csrf } } : first
  })
  const mine: typeof asked = { workspace, query, answer }
  // Whoever takes a part says why it is not there.
  answer.catch(() => {}).finally(() => (mine.at = performance.now()))
  asked = mine
  taken = new Set()
}

/** A part of it, for who asks for it with the same query; null where it has to be asked for. */
export function takeFirst<K extends keyof First>(
  workspace: number,
  part: K,
  query: Record<string, unknown> = {},
): Promise<First[K]> | null {
  const known = asked
  if (known?.workspace !== workspace || taken.has(part)) return null
  if (known.at !== undefined && performance.now() - known.at > TRUSTED_FOR) return null
  if (Object.entries(query).some(([name, value]) => JSON.stringify(known.query[name]) !== JSON.stringify(value)))
    return null
  taken.add(part)
  return known.answer.then((first) => first[part])
}
