/** The product's words for what the API names, and times as people say them. */

export const MOVES = [
  ['unsorted', 'Unsorted'],
  ['our_move', 'Our move'],
  ['in_review', 'In review'],
  ['their_move', 'Their move'],
  ['parked', 'Parked'],
  ['settled', 'Settled'],
] as const

export const MOVE_WORDS: Record<string, string> = Object.fromEntries(MOVES)
export const PRIORITIES = ['Low', 'Normal', 'High', 'Urgent'] as const
export const KINDS: Record<string, string> = {
  comment: 'comment',
  reply: 'reply',
  mention: 'mention',
  story_mention: 'story mention',
  visitor_post: 'visitor post',
  review: 'review',
  form_entry: 'form entry',
  private_message: 'private message',
  found: 'found',
}
export const SETTLED: Record<string, string> = {
  answered: 'answered',
  no_reply_needed: 'no reply needed',
  handed_over: 'handed over',
  junk: 'junk',
  removed: 'removed',
}
/** Acts on the network: what to press, and what the undo line and the trail say. */
export const MODERATION: Record<string, { word: string; done: string }> = {
  like: { word: 'Like', done: 'liked it' },
  unlike: { word: 'Take the like back', done: 'took the like back' },
  hide: { word: 'Hide', done: 'hid it' },
  show: { word: 'Show again', done: 'showed it again' },
  delete: { word: 'Delete', done: 'deleted it' },
  repost: { word: 'Repost', done: 'reposted it' },
  block: { word: 'Block', done: 'blocked the person' },
  unblock: { word: 'Unblock', done: 'unblocked the person' },
}
export const PARKING = [
  ['three_hours', '3 hours'],
  ['tomorrow', 'Tomorrow'],
  ['next_week', 'Next week'],
  ['next_month', 'Next month'],
] as const

/** What a colleague is doing at a conversation. */
export const DOING = { reading: 'is reading', writing: 'is writing', answered: 'just answered' } as const

const MINUTE = 60_000

/** A length of time in words: `26 min`, `3 h`, `2 days`. */
export function sayLength(ms: number): string {
  const minutes = Math.floor(ms / MINUTE)
  if (minutes < 1) return 'under 1 min'
  if (minutes < 100) return `${minutes} min`
  const hours = Math.round(minutes / 60)
  if (hours < 36) return `${hours} h`
  return `${Math.round(hours / 24)} days`
}

/** How a due stands now: `late 26 min` or `due in 18 min`; late is told apart for colour and for ears. */
export function sayDue(due: string | null, now: number): { words: string; late: boolean } {
  if (!due) return { words: '', late: false }
  const left = Date.parse(due) - now
  return left < 0
    ? { words: `late ${sayLength(-left)}`, late: true }
    : { words: `due in ${sayLength(left)}`, late: false }
}

/** Making a formatter takes a hundred times as long as using it, and a screen says some fifty times. */
const formats = new Map<string, Intl.DateTimeFormat>()
function format(date: Date, zone: string, parts: Intl.DateTimeFormatOptions): string {
  const key = `${zone} ${Object.entries(parts).join()}`
  let found = formats.get(key)
  if (!found) formats.set(key, (found = new Intl.DateTimeFormat('en-GB', { ...parts, timeZone: zone })))
  return found.format(date)
}

const sayDate = (date: Date, zone: string): string =>
  format(date, zone, { day: 'numeric', month: 'numeric', year: 'numeric' })

/** The weekday's name in the workspace's zone. */
export const sayWeekday = (at: string, zone: string): string => format(new Date(at), zone, { weekday: 'long' })

/** What was said of an instant before: a screen says the same some hundred times while one walks. */
const said = new Map<string, { clock: string; date: string; day: string }>()
const MOST_SAID = 4000
function sayParts(at: string, zone: string): { clock: string; date: string; day: string } {
  const key = `${at} ${zone}`
  let found = said.get(key)
  if (!found) {
    const date = new Date(at)
    found = {
      clock: format(date, zone, { hour: '2-digit', minute: '2-digit' }),
      date: sayDate(date, zone),
      day: format(date, zone, { day: 'numeric', month: 'short' }),
    }
    if (said.size >= MOST_SAID) said.clear()
    said.set(key, found)
  }
  return found
}
/** Today's date in a zone, looked up once a minute: a date ends in its year. */
const todays = new Map<string, { minute: number; date: string }>()
function sayToday(now: number, zone: string): string {
  const minute = Math.floor(now / MINUTE)
  let found = todays.get(zone)
  if (found?.minute !== minute) todays.set(zone, (found = { minute, date: sayDate(new Date(now), zone) }))
  return found.date
}

/** A time on the clock in the workspace's zone; with its day when that is not today, and its year when not this one. */
export function sayTime(at: string, zone: string, now = Date.now()): string {
  const { clock, date, day } = sayParts(at, zone)
  const today = sayToday(now, zone)
  if (date === today) return clock
  const year = date.slice(-4) === today.slice(-4) ? '' : ` ${date.split('/').at(-1)}`
  return `${day}${year} ${clock}`
}
/** A day of the calendar, written `2026-11-26`, as people say it; it is the same day in every zone. */
export function sayDay(day: string, now = Date.now()): string {
  const date = new Date(`${day.slice(0, 10)}T12:00:00Z`)
  const isOfThisYear = date.getUTCFullYear() === new Date(now).getUTCFullYear()
  const year: Intl.DateTimeFormatOptions = isOfThisYear ? {} : { year: 'numeric' }
  return format(date, 'UTC', { day: 'numeric', month: 'short', ...year })
}

/** Minutes that the clocks of a zone are ahead of UTC at an instant. */
function offsetOf(zone: string, at: number): number {
  const said = format(new Date(at), zone, {
    year: 'numeric',
    month: 'numeric',
    day: 'numeric',
    hour: 'numeric',
    minute: 'numeric',
    second: 'numeric',
    hourCycle: 'h23',
  })
  const [day = 1, month = 1, year = 1970, hour = 0, minute = 0, second = 0] = (said.match(/\d+/g) ?? []).map(Number)
  return Math.round((Date.UTC(year, month - 1, day, hour, minute, second) - Math.floor(at / 1000) * 1000) / MINUTE)
}
/** `times of Copenhagen` when this device's clock says another time than the workspace's; else nothing. */
export function sayZone(zone: string, now = Date.now()): string {
  const differs = offsetOf(zone, now) !== -new Date(now).getTimezoneOffset()
  return differs ? `times of ${zone.split('/').at(-1)?.replaceAll('_', ' ')}` : ''
}
/** An instant as a `datetime-local` field wants it, on the workspace's clock. */
export function toField(at: string | number, zone: string): string {
  const ms = typeof at === 'number' ? at : Date.parse(at)
  return new Date(ms + offsetOf(zone, ms) * MINUTE).toISOString().slice(0, 16)
}
/** What such a field says, as an instant; a time that a clock change skips is taken by the offset before it, one that
 * comes twice is the first (RFC 5545 3.3.5). Null when it says no time. */
export function fromField(field: string, zone: string): number | null {
  // What browsers make of anything else is anybody's guess.
  if (!/^\d{4,6}-\d\d-\d\dT\d\d:\d\d$/.test(field)) return null
  const wall = Date.parse(`${field}:00Z`)
  if (Number.isNaN(wall)) return null
  const [early, late] = [offsetOf(zone, wall - 24 * 60 * MINUTE), offsetOf(zone, wall + 24 * 60 * MINUTE)]
  const fits = [early, late].map((o) => wall - o * MINUTE).filter((at) => offsetOf(zone, at) * MINUTE === wall - at)
  return fits.length ? Math.min(...fits) : wall - early * MINUTE
}

/** What becomes of a time that a clock change skips, as a sentence; nothing for a time that comes. */
export function saySkipped(field: string, zone: string): string {
  const at = fromField(field, zone)
  if (at === null || toField(at, zone) === field) return ''
  return `${field.slice(11)} does not come that night, for the clocks go forward: it becomes ${toField(at, zone).slice(11)}.`
}

const segmenter = new Intl.Segmenter(undefined, { granularity: 'grapheme' })

/** A length of a text as a person counts it: grapheme clusters (UAX #29). */
export function countGraphemes(text: string): number {
  return [...segmenter.segment(text)].length
}

/** A file's size as people say it. */
export const sayBytes = (bytes: number): string =>
  bytes < 1_000_000 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`

/** What stands in braces as if something would be filled in there, and nothing will; a kept link is the server's to know. */
export function listUnfilled(text: string): string[] {
  const found = [...text.matchAll(/\{([^{}\n]{1,80})\}/g)].filter(([, what]) => {
    const name = what?.split('|')[0]?.trim() ?? ''
    return name !== '' && !['first name', 'account'].includes(name) && !/^link:\s*[a-z0-9]+(?:-[a-z0-9]+)*$/.test(name)
  })
  return [...new Set(found.map(([whole]) => whole))]
}
