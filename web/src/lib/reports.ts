/** What a report is about, as it stands in the address, and its figures in words. */

export const PERIODS = [
  ['today', 'Today'],
  ['yesterday', 'Yesterday'],
  ['this_week', 'This week'],
  ['last_week', 'Last week'],
  ['this_month', 'This month'],
  ['last_month', 'Last month'],
  ['7_days', 'The last 7 days'],
  ['28_days', 'The last 28 days'],
  ['90_days', 'The last 90 days'],
  ['exact', 'Exact dates'],
] as const
export const AGAINST = [
  ['before', 'the time before'],
  ['week', 'a week back'],
  ['month', 'a month back'],
  ['year', 'a year back'],
] as const
export const COUNTING = [
  ['working', 'working time'],
  ['clock', 'time on the clock'],
] as const
export type Period = (typeof PERIODS)[number][0]
export type Against = (typeof AGAINST)[number][0]
export type Counting = (typeof COUNTING)[number][0]
/** What a report can be narrowed to: several values of each, as the API names them. */
export const NARROWED = [
  'account',
  'member',
  'team',
  'kind',
  'tag',
  'priority',
  'public',
  'group',
  'network',
  'person_tag',
  'language',
  'sentiment',
] as const
export type Narrowed = (typeof NARROWED)[number]

export interface ReportAddress {
  period: Period
  against: Against
  clock: Counting
  since?: string
  until?: string
  narrowed: Partial<Record<Narrowed, string[]>>
}

const pick = <T extends string>(of: readonly (readonly [T, string])[], value: unknown, other: T): T =>
  of.find(([key]) => key === value)?.[0] ?? other
const words = (value: unknown): string[] =>
  (Array.isArray(value) ? value : [value]).filter((v): v is string => typeof v === 'string' && v !== '')

export function readAddress(query: Record<string, unknown>): ReportAddress {
  const period = pick(PERIODS, query.period, '28_days')
  const days =
    typeof query.since === 'string' && typeof query.until === 'string' ? { since: query.since, until: query.until } : {}
  return {
    period: period === 'exact' && !('since' in days) ? '28_days' : period,
    against: pick(AGAINST, query.against, 'before'),
    clock: pick(COUNTING, query.clock, 'working'),
    ...(period === 'exact' ? days : {}),
    narrowed: Object.fromEntries(NARROWED.map((n) => [n, words(query[n])]).filter(([, v]) => v?.length)),
  }
}

/** The same for the address; what goes without saying is left out. */
export function writeAddress(of: ReportAddress): Record<string, string | string[]> {
  const { narrowed, period, against, clock, ...days } = of
  return {
    ...(period === '28_days' ? {} : { period }),
    ...(against === 'before' ? {} : { against }),
    ...(clock === 'working' ? {} : { clock }),
    ...days,
    ...narrowed,
  }
}

/** The same as a query. */
export function writeQuery(of: ReportAddress, more: Record<string, string> = {}): string {
  const all = new URLSearchParams()
  // What is asked for narrows what the report is narrowed to.
  for (const [name, value] of Object.entries({ ...writeAddress(of), ...more }))
    for (const one of Array.isArray(value) ? value : [value]) all.append(name, one)
  return all.toString()
}

/** The desk's list of what a figure counts. */
export const listBehind = (of: ReportAddress, figure: string, more: Record<string, string> = {}): string =>
  writeQuery(of, { figure, ...more })

/** What the figure of such a list is called on the desk. */
export const LISTED: Record<string, string> = {
  came_in: 'came in',
  answered: 'asked for an answer',
  first_half: 'first answers',
  first_nine: 'first answers',
  kept: 'answers, by their target',
  answers: 'answers',
  all_half: 'answers',
  all_nine: 'answers',
  without_reply: 'settled without a reply',
  handed_over: 'handed over',
  open_at_end: 'waited at the day’s end',
}
/** Where what waits can stand, in the order of work, with its ink and how full that is in the chart. */
export const PHASES = [
  ['unsorted', 'unsorted', 'sky', 0.35],
  ['ours', 'our move', 'pine', 0.85],
  ['in_review', 'in review', 'pineLine', 1],
  ['advice', 'asked outside', 'brickLine', 1],
  ['case', 'with another desk', 'ink2', 0.6],
  ['parked', 'parked', 'rule', 1],
] as const
export function sayListed(report: string): string {
  const of = new URLSearchParams(report)
  const said = LISTED[of.get('figure') ?? ''] ?? 'one of its figures'
  const phase = PHASES.find(([name]) => name === of.get('phase'))
  return phase ? `${said}, ${phase[1]}` : said
}

export type Unit = 'cases' | 'seconds' | 'share'
/** 26 min, 3 h 12, 2 days: seconds as people say them. */
export function saySpan(seconds: number): string {
  const minutes = Math.round(seconds / 60)
  if (minutes < 1) return `${Math.round(seconds)} s`
  if (minutes < 60) return `${minutes} min`
  if (minutes < 36 * 60) {
    const rest = minutes % 60
    return `${Math.floor(minutes / 60)} h${rest ? ` ${String(rest).padStart(2, '0')}` : ''}`
  }
  return `${(minutes / 1440).toFixed(1)} days`
}
const share = (value: number): string => `${(value * 100).toFixed(1)} %`
export const sayNumber = (n: number): string => n.toLocaleString('en-GB')

export function sayFigure(unit: Unit, value: number | null): string {
  if (value === null) return '–'
  if (unit === 'cases') return sayNumber(value)
  return unit === 'share' ? share(value) : saySpan(value)
}
export const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const
export const HOURS: readonly number[] = Array.from({ length: 24 }, (_, h) => h)
export const QUARTERS = ['0 to 6', '6 to 12', '12 to 18', '18 to 24'] as const
