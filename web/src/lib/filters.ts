/** Filters and order as they stand in the address, and the words for them. */
import { BANDS } from '@/lib/bands'
import { KINDS, MOVES } from '@/lib/words'

export const LISTS = [
  'owner',
  'team',
  'account',
  'network',
  'group',
  'kind',
  'tag',
  'person_tag',
  'sentiment',
  'reads_as',
  'language',
  'priority',
] as const
export const NUMBERS: readonly string[] = ['team', 'account', 'group', 'tag', 'person_tag', 'sentiment', 'priority']
export const FLAGS = ['public', 'bare_mention', 'unread', 'watched', 'attachment'] as const
export const TEXTS = ['band', 'due_from', 'due_until', 'since', 'until', 'words', 'person', 'report', 'rule'] as const
export const ORDERS = [
  ['due', 'Due first'],
  ['newest', 'Newest first'],
  ['oldest', 'Oldest first'],
  ['priority', 'Priority first'],
  ['standing', 'Standing first'],
] as const
/** The languages that the reading tells apart. */
export const LANGUAGES = ['en', 'de', 'da', 'es', 'fr', 'pl', 'nl', 'sv', 'it', 'pt'] as const
export type Order = (typeof ORDERS)[number][0]

/** What is done with is looked up by when it happened; what is open is worked by when it is due. */
export const orderOf = (move: ListedMove): Order => (['settled', 'their_move', 'any'].includes(move) ? 'newest' : 'due')

/** What is set, by name; lists as written in the address. */
export type Filters = Partial<Record<string, string[]>>
type Query = Record<string, unknown>

const words = (value: unknown): string[] =>
  (Array.isArray(value) ? value : [value]).filter((v): v is string => typeof v === 'string' && v !== '')

const isNumber = (value: string): boolean => /^\d{1,15}$/.test(value)
const isDay = (value: string): boolean => /^\d{4}-\d\d-\d\d/.test(value) && !Number.isNaN(Date.parse(value))
const oneOf = (values: readonly string[]) => (value: string) => values.includes(value)
/** What a value of each has to be: an address may be written by hand, or be from before. */
const READABLE: Record<string, (value: string) => boolean> = {
  ...Object.fromEntries([...NUMBERS, 'person', 'rule'].map((name) => [name, isNumber])),
  ...Object.fromEntries(FLAGS.map((name) => [name, oneOf(['true', 'false'])])),
  owner: (value) => isNumber(value) || ['me', 'nobody'].includes(value),
  priority: oneOf(['0', '1', '2', '3']),
  sentiment: oneOf(['-1', '0', '1']),
  reads_as: (value) => value in SHOWN_AS,
  kind: (value) => value in KINDS,
  network: (value) => /^[a-z_]{1,40}$/.test(value),
  language: (value) => /^[a-z]{2,3}$/.test(value),
  band: oneOf(BANDS.map(([key]) => key)),
  due_from: isDay,
  due_until: isDay,
  since: isDay,
  until: isDay,
}

/** What an address asks for, and what of it cannot be read: that is said, and left out. */
export function readAddress(query: Query): { filters: Filters; unread: string[] } {
  const filters: Filters = {}
  const unread: string[] = []
  for (const name of [...LISTS, ...FLAGS, ...TEXTS]) {
    const isReadable = READABLE[name] ?? (() => true)
    const values = words(query[name])
    const readable = values.filter(isReadable)
    if (readable.length) filters[name] = readable
    unread.push(...values.filter((v) => !isReadable(v)).map((v) => `${TITLES[name] ?? name} “${v.slice(0, 40)}”`))
  }
  return { filters, unread }
}
export const readFilters = (query: Query): Filters => readAddress(query).filters

export type ListedMove = (typeof MOVES)[number][0] | 'any'
export const isMove = (value: unknown): value is ListedMove => value === 'any' || MOVES.some(([key]) => key === value)
/** Which list an address names; what a report counts stands in all of them, unless one is chosen. */
export const readMove = (query: Query): ListedMove =>
  isMove(query.move) ? query.move : query.report || query.rule ? 'any' : 'unsorted'

export const readOrder = (query: Query): Order | undefined => ORDERS.find(([key]) => key === query.order)?.[0]

/** The same as the API wants them. */
export function toApi(filters: Filters): Record<string, unknown> {
  const out: Record<string, unknown> = {}
  for (const [name, values] of Object.entries(filters)) {
    if (!values?.length) continue
    if ((LISTS as readonly string[]).includes(name)) out[name] = NUMBERS.includes(name) ? values.map(Number) : values
    else if ((FLAGS as readonly string[]).includes(name)) out[name] = values[0] === 'true'
    else if (name === 'person') out[name] = Number(values[0])
    else out[name] = values[0]
  }
  return out
}

/** The filters with one value put in or taken out; what holds one value holds the new one. */
export function toggle(filters: Filters, name: string, value: string): Filters {
  const before = filters[name] ?? []
  const has = before.includes(value)
  const isList = (LISTS as readonly string[]).includes(name)
  const after = has ? before.filter((v) => v !== value) : isList ? [...before, value] : [value]
  return { ...filters, [name]: after }
}

export const TITLES: Record<string, string> = {
  owner: 'Owner',
  team: 'Team',
  account: 'Account',
  network: 'Network',
  group: 'Account group',
  kind: 'Kind',
  public: 'Who can read it',
  tag: 'Tag',
  person_tag: 'Tag of the person',
  sentiment: 'Sentiment',
  reads_as: 'Reads as',
  language: 'Language',
  priority: 'Priority',
  band: 'Due',
  unread: 'Unread',
  watched: 'Watched',
  attachment: 'Attachment',
  bare_mention: 'Bare mention',
  words: 'Words',
  due_from: 'Due from',
  due_until: 'Due before',
  since: 'Since',
  until: 'Until',
  person: 'Person',
  report: 'Counted in a report',
  rule: 'Where a rule was met',
}
export const SENTIMENTS: Record<string, string> = { '-1': 'negative', '0': 'neutral', '1': 'positive' }
export type Label = 'question' | 'complaint' | 'praise' | 'thanks' | 'spam'
export const LABELS: readonly Label[] = ['question', 'complaint', 'praise', 'thanks', 'spam']
export const READS_AS: Record<Label, string> = {
  question: 'question',
  complaint: 'complaint',
  praise: 'praise',
  thanks: 'thanks',
  spam: 'spam',
}
/** What a row can read as, to filter by. */
export const SHOWN_AS: Record<string, string> = { ...READS_AS, not_sure: 'not sure' }
const WITHOUT_ARTICLE = ['praise', 'thanks', 'spam']
/** 'a complaint', 'praise'. */
export const sayLabel = (label: string): string => (WITHOUT_ARTICLE.includes(label) ? label : `a ${label}`)
export const SURENESS: Record<string, string> = {
  sure: 'sure',
  likely: 'likely',
  perhaps: 'perhaps',
  not_sure: 'not sure',
}
/** 'a complaint and a question', 'something it is not sure of'; '' for none of them. */
export function sayReads(labels: readonly string[] | null): string {
  if (!labels?.length) return ''
  return labels[0] === 'not_sure' ? 'something it is not sure of' : labels.map(sayLabel).join(' and ')
}

const inEnglish = new Intl.DisplayNames(['en'], { type: 'language' })
/** A list says a few languages again and again, and asking for a name takes as long as a row. */
const languages = new Map<string, string>()
export function sayLanguage(code: string): string {
  let name = languages.get(code)
  if (name === undefined) languages.set(code, (name = inEnglish.of(code) ?? code))
  return name
}
