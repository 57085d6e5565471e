/** Where each row of the queue stands: bands as the server drew their edges, then the rows in order. */
import type { Edges, MoveCount, Row } from '@/lib/shapes'

export const BANDS = [
  ['late', 'Late'],
  ['within_hour', 'Within the hour'],
  ['later_today', 'Later today'],
  ['after_today', 'After today'],
  ['not_due', 'Not due'],
] as const
export type BandKey = (typeof BANDS)[number][0]
export type Line<R extends Row = Row> =
  | { band: BandKey; title: string; total: number }
  | { row: R }
  /** So many rows stand here that have not been loaded. */
  | { between: number }

/** The band of a due, by the edges that came from the server. */
export function getBand(due: string | null, edges: Edges): BandKey {
  if (!due) return 'not_due'
  const at = Date.parse(due)
  if (at < Date.parse(edges.now)) return 'late'
  if (at < Date.parse(edges.hour)) return 'within_hour'
  return at < Date.parse(edges.today) ? 'later_today' : 'after_today'
}

/** Rows in their order with a line before the first of each band; `after`, the row that stands before them. */
export function layOut<R extends Row>(rows: R[], edges: Edges, count: MoveCount | undefined, after?: Row): Line<R>[] {
  const lines: Line<R>[] = []
  let current: BandKey | null = after ? getBand(after.due, edges) : null
  for (const row of rows) {
    const band = getBand(row.due, edges)
    if (band !== current) {
      current = band
      const title = BANDS.find(([key]) => key === band)?.[1] ?? ''
      lines.push({ band, title, total: count?.[band] ?? 0 })
    }
    lines.push({ row })
  }
  return lines
}
