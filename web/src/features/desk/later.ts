/** Times at which answers are often wanted: soon, and when people are up again. */
const HOUR = 3_600_000

function atNine(days: number): Date {
  const day = new Date()
  day.setDate(day.getDate() + days)
  day.setHours(9, 0, 0, 0)
  return day
}

export function listOften(): { words: string; at: Date }[] {
  const now = new Date()
  const untilMonday = (8 - now.getDay()) % 7 || 7
  return [
    { words: 'In an hour', at: new Date(now.getTime() + HOUR) },
    { words: 'Tomorrow 9:00', at: atNine(1) },
    ...(untilMonday > 1 ? [{ words: 'Monday 9:00', at: atNine(untilMonday) }] : []),
  ]
}
