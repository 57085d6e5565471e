/** A row in words: what its marks say to the eye, for ears. */
import type { Row, Standing } from '@/api/types'
import { KINDS, MOVE_WORDS, PRIORITIES, sayDue, sayLength } from '@/lib/words'

/** Whether it has gone on to another move than the list that shows it. */
export const hasLeft = (row: Row, move: Standing): boolean => move !== 'any' && row.move !== move

/** When it is due, when it comes back, or where it is by now. */
export function sayWhen(row: Row, move: Standing, now: number): string {
  if (hasLeft(row, move)) return `now ${MOVE_WORDS[row.move]}`
  if (move === 'any' && !['parked', 'unsorted', 'our_move'].includes(row.move)) return MOVE_WORDS[row.move] ?? ''
  if (row.move === 'parked' && row.parked_until) return `back in ${sayLength(Date.parse(row.parked_until) - now)}`
  return sayDue(row.due, now).words || `${sayLength(now - Date.parse(row.last_at))} ago`
}

/** Minutes and hours written out, as they are spoken. */
const speak = (words: string): string =>
  words
    .replace(/\b1 min\b/, '1 minute')
    .replace(/\bmin\b/, 'minutes')
    .replace(/\b1 h\b/, '1 hour')
    .replace(/(\d) h\b/, '$1 hours')

/** `Kofi Salas, urgent, due in 2 hours, private message`. */
export const nameRow = (row: Row, move: Standing, now: number): string =>
  [
    row.person_name,
    (PRIORITIES[row.priority] ?? '').toLowerCase(),
    speak(sayWhen(row, move, now)),
    `${KINDS[row.kind] ?? row.kind}${row.rating ? `, ${row.rating} of 5 stars` : ''}`,
    row.unread ? 'unread' : '',
  ]
    .filter(Boolean)
    .join(', ')
