/** What colleagues have left on a conversation: counted, and the newest of it in a line, before somebody answers. */
import type { EventOf, Sheet, TrailEvent } from '@/api/types'

export interface Left {
  count: string
  by: string
  at: string
  words: string
}

/** The numbers of what was taken back. */
export const listUndone = (trail: TrailEvent[]): Set<number> =>
  new Set(trail.flatMap((e) => (e.kind === 'undone' ? [e.data.of] : [])))
export type Note = EventOf<'noted' | 'assigned'>
/** The notes that stand: written, or given along with the conversation, and not taken back. */
export function listNotes(trail: TrailEvent[]): Note[] {
  const undone = listUndone(trail)
  const isNote = (e: TrailEvent): e is Note => e.kind === 'noted' || (e.kind === 'assigned' && Boolean(e.data.note))
  return trail.filter(isNote).filter((e) => !undone.has(e.seq))
}
export const noteOf = (e: Note): string => (e.kind === 'noted' ? e.data.text : (e.data.note ?? ''))

const sayMany = (n: number, one: string, many: string): string => (n ? `${n} ${n === 1 ? one : many}` : '')

export function findLeft(sheet: Sheet, nameOf: (member: number | null) => string): Left | null {
  const notes = listNotes(sheet.trail)
  const remarks = sheet.trail.filter((e) => e.kind === 'case_told').filter((e) => e.data.remark)
  const answers = sheet.advice.flatMap((a) => a.answers)
  const lines = [
    ...notes.map((e) => ({ by: nameOf(e.member_id), at: e.at, words: noteOf(e) })),
    ...remarks.map((e) => ({ by: e.data.by, at: e.at, words: e.data.remark ?? '' })),
    ...answers.map((a) => ({ by: a.sender_name || a.sender, at: a.at, words: a.own })),
    ...sheet.shared_drafts.map((d) => ({ by: `${nameOf(d.member_id)}, a draft`, at: d.updated_at, words: d.body })),
  ]
  const newest = lines.reduce<(typeof lines)[number] | null>(
    (last, one) => (last && Date.parse(last.at) >= Date.parse(one.at) ? last : one),
    null,
  )
  if (!newest) return null
  const count = [
    sayMany(notes.length, 'note', 'notes'),
    sayMany(sheet.shared_drafts.length, 'draft', 'drafts'),
    sayMany(answers.length, 'answer from outside', 'answers from outside'),
    sayMany(remarks.length, 'remark of a desk', 'remarks of desks'),
  ]
    .filter(Boolean)
    .join(', ')
  return { count, ...newest }
}
