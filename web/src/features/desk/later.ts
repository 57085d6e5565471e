/** Times at which answers are often wanted, on the workspace's clock: soon, and when people are up again. */
import { fromField, toField } from '@/lib/words'

const HOUR = 3_600_000
const DAY = 24 * HOUR

function atNine(now: number, days: number, zone: string): Date {
  const [today = ''] = toField(now, zone).split('T')
  const day = new Date(Date.parse(`${today}T12:00:00Z`) + days * DAY).toISOString().slice(0, 10)
  return new Date(fromField(`${day}T09:00`, zone) ?? now)
}

export function listOften(zone: string): { words: string; at: Date }[] {
  const now = Date.now()
  const weekday = new Date(`${toField(now, zone).slice(0, 10)}T12:00:00Z`).getUTCDay()
  const untilMonday = (8 - weekday) % 7 || 7
  return [
    { words: 'In an hour', at: new Date(now + HOUR) },
    { words: 'Tomorrow 9:00', at: atNine(now, 1, zone) },
    ...(untilMonday > 1 ? [{ words: 'Monday 9:00', at: atNine(now, untilMonday, zone) }] : []),
  ]
}
