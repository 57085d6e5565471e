/** Filters and order as they stand in the address, and the words for them. */
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
export const TEXTS = ['band', 'due_from', 'due_until', 'since', 'until', 'words', 'person', 'report'] as const
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

/** What is set, by name; lists as written in the address. */
export type Filters = Partial<Record<string, string[]>>
type Query = Record<string, unknown>

const words = (value: unknown): string[] =>
  (Array.isArray(value) ? value : [value]).filter((v): v is string => typeof v === 'string' && v !== '')

export function readFilters(query: Query): Filters {
  const set: Filters = {}
  for (const name of [...LISTS, ...FLAGS, ...TEXTS]) {
    const values = words(query[name])
    if (values.length) set[name] = values
  }
  return set
}

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

const names = new Intl.DisplayNames(['en'], { type: 'language' })
export const sayLanguage = (code: string): string => names.of(code) ?? code
