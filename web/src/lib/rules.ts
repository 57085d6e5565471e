/** Rules as sentences that read aloud; each thing that can be changed is a slot. */
import { sayLabel, sayLanguage } from '@/lib/filters'
import { KINDS, PARKING, PRIORITIES, SETTLED } from '@/lib/words'

/** A piece of a sentence: plain, what is asked, what is done, or what is done and urgent. */
export interface Piece {
  text: string
  slot?: 'ask' | 'do' | 'urgent'
}
/** The few fields a sentence needs, so that lib imports nothing above it. */
type Part = { type?: string } & Record<string, unknown>
interface Body {
  when: { of?: string; parts?: unknown[] }
  then: unknown[]
}
/** Names of what rules mention by number. */
export interface Names {
  tag: (id: number) => string
  team: (id: number) => string
  member: (id: number) => string
  account: (id: number) => string
  saved: (id: number) => string
  desk: (id: number) => string
  group: (id: number) => string
  post: (id: number) => string
  network: (key: string) => string
}

export const PART_WORDS: Record<string, string> = {
  words: 'Words',
  kind: 'Kind',
  account: 'Account or group',
  network: 'Network',
  reads_as: 'Reads as',
  sentiment: 'Sentiment',
  bare_mention: 'Bare mention',
  language: 'Language',
  rating: 'Stars',
  carries: 'Link or attachment',
  person_tag: 'Tag of the person',
  reach: 'Reach',
  standing: 'Standing',
  first_contact: 'First contact',
  first_message: 'First message here',
  nobody_answered: 'Nobody has answered',
  hours: 'Working hours',
  window: 'Weekly window',
  post: 'One post',
  ad: 'On an ad',
  anything: 'Every message',
  group: 'A group of conditions',
}
export const ACTION_WORDS: Record<string, string> = {
  priority: 'Set the priority',
  tag: 'Add tags',
  assign: 'Give it to somebody',
  reply: 'Answer',
  like: 'Like it',
  hide: 'Hide it',
  settle: 'Settle it',
  hand_over: 'Hand it over',
  park: 'Park it',
  bring_back: 'Bring it back, thanks too',
  consent: 'Ask for approval of answers',
  watch: 'Let members watch',
  alert: 'Alert members',
  stop: 'Stop here',
}
const saySureness = (part: Part): string =>
  part.sureness === 'sure' ? ', surely' : part.sureness === 'likely' ? ', likely' : ''
export const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const

/** A fresh condition or action of a type, as it is first shown. */
export function makePart(type: string): Part {
  const fresh: Record<string, Part> = {
    words: { mode: 'any', words: [] },
    kind: { kinds: ['comment'] },
    account: { accounts: [], groups: [] },
    network: { networks: [] },
    reads_as: { reads_as: ['complaint'] },
    sentiment: { at_most: -0.5, at_least: null },
    bare_mention: { at_most: 30, none_of: [] },
    language: { languages: ['es'] },
    rating: { at_most: 2 },
    carries: { what: 'link' },
    person_tag: { tags: [] },
    reach: { at_least: 50 },
    standing: { at_least: 60 },
    first_contact: {},
    first_message: {},
    nobody_answered: {},
    anything: {},
    hours: { inside: false },
    window: { days: [0, 1, 2, 3, 4], starts: 1320, ends: 360 },
    post: { post: 0 },
    ad: {},
    group: { of: 'any', parts: [] },
  }
  return { type, ...fresh[type] }
}
export function makeAction(type: string): Part {
  const fresh: Record<string, Part> = {
    priority: { priority: 3 },
    tag: { tags: [], person: false },
    assign: { member: null, team: null },
    reply: { text: '', saved: null, answers: false, language: null, offer: true },
    settle: { how: 'no_reply_needed' },
    hand_over: { desk: 0 },
    park: { choice: 'tomorrow' },
    watch: { members: [] },
    alert: { members: [] },
  }
  return { type, ...fresh[type] }
}

export function sayList(words: string[], last: 'and' | 'or'): string {
  if (words.length < 2) return words[0] ?? '…'
  return `${words.slice(0, -1).join(', ')} ${last} ${words.at(-1)}`
}
const list = (value: unknown): (string | number)[] => (Array.isArray(value) ? (value as (string | number)[]) : [])
const article = (word: string): string => (/^[aeiou]/.test(word) ? `an ${word}` : `a ${word}`)
export const sayNumber = (n: number): string => (n < 0 ? `−${Math.abs(n)}` : String(n))
export const sayClock = (minutes: number): string =>
  `${String(Math.floor(minutes / 60) % 24).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`

function sayDays(days: number[]): string {
  const sorted = [...days].sort()
  const isRun = sorted.length > 2 && sorted.every((d, n) => n === 0 || d === (sorted[n - 1] ?? 0) + 1)
  return isRun
    ? `${WEEKDAYS[sorted[0] ?? 0]} to ${WEEKDAYS[sorted.at(-1) ?? 0]}`
    : sayList(
        sorted.map((d) => WEEKDAYS[d] ?? ''),
        'and',
      )
}

const ask = (text: string): Piece => ({ text, slot: 'ask' })
const plain = (text: string): Piece => ({ text })

/** One condition as it stands in a sentence after 'and it'. */
export function sayPart(part: Part, names: Names): Piece[] {
  switch (part.type) {
    case 'words': {
      const words = list(part.words).map(String)
      if (part.mode === 'none') return [plain('has none of '), ask(sayList(words, 'and'))]
      return [plain('has '), ask(sayList(words, part.mode === 'all' ? 'and' : 'or'))]
    }
    case 'kind':
      return [
        plain('is '),
        ask(
          sayList(
            list(part.kinds).map((k) => article(KINDS[String(k)] ?? String(k))),
            'or',
          ),
        ),
      ]
    case 'account':
      return [plain('came to '), ask(sayPlaces(part, names))]
    case 'network':
      return [
        plain('came from '),
        ask(
          sayList(
            list(part.networks).map((n) => names.network(String(n))),
            'or',
          ),
        ),
      ]
    case 'reads_as':
      return [
        ask(
          `reads as ${sayList(
            list(part.reads_as).map((r) => sayLabel(String(r))),
            'or',
          )}${saySureness(part)}`,
        ),
      ]
    case 'sentiment': {
      const low = part.at_least as number | null
      const high = part.at_most as number | null
      const words =
        low != null && high != null
          ? `between ${sayNumber(low)} and ${sayNumber(high)}`
          : high != null
            ? `at most ${sayNumber(high)}`
            : `at least ${sayNumber(low ?? -1)}`
      return [plain('has a '), ask(`sentiment of ${words}${saySureness(part)}`)]
    }
    case 'bare_mention': {
      const none = list(part.none_of).map(String)
      return [
        plain('is a '),
        ask(`bare mention with at most ${Number(part.at_most)} other characters`),
        ...(none.length ? [plain(' and has none of '), ask(sayList(none, 'and'))] : []),
      ]
    }
    case 'language':
      return [
        plain('is in '),
        ask(
          sayList(
            list(part.languages).map((l) => sayLanguage(String(l))),
            'or',
          ),
        ),
      ]
    case 'rating':
      return [plain('has '), ask(`at most ${Number(part.at_most)} ${part.at_most === 1 ? 'star' : 'stars'}`)]
    case 'carries':
      return [plain('has '), ask(part.what === 'link' ? 'a link' : 'an attachment')]
    case 'person_tag':
      return [
        plain('comes from a person tagged '),
        ask(
          sayList(
            list(part.tags).map((t) => names.tag(Number(t))),
            'or',
          ),
        ),
      ]
    case 'reach':
      return [plain('comes from a person with '), ask(`reach of ${Number(part.at_least)} or more`)]
    case 'standing':
      return [plain('comes from a person with '), ask(`standing of ${Number(part.at_least)} or more`)]
    case 'first_contact':
      return [plain('is their '), ask('first contact')]
    case 'first_message':
      return [plain('is the '), ask('first message of its conversation')]
    case 'nobody_answered':
      return [plain('has been answered by '), ask('nobody of us')]
    case 'anything':
      return [plain('is '), ask('any message')]
    case 'hours':
      return [plain('arrives '), ask(part.inside ? 'within working hours' : 'outside working hours')]
    case 'window':
      return [
        plain('arrives '),
        ask(
          `${sayDays(list(part.days).map(Number))} between ${sayClock(Number(part.starts))} and ${sayClock(Number(part.ends))}`,
        ),
      ]
    case 'post':
      return [plain('stands under '), ask(names.post(Number(part.post)))]
    case 'ad':
      return [plain('stands under '), ask('an ad')]
    case 'group': {
      const parts = list(part.parts as unknown as (string | number)[]) as unknown as Part[]
      const word = part.of === 'all' ? ' and ' : ' or '
      return [
        plain(part.of === 'none' ? 'none of this holds: ' : '('),
        ...join(
          parts.map((p) => sayPart(p, names)),
          word,
        ),
        plain(part.of === 'none' ? '' : ')'),
      ]
    }
    default:
      return [plain(String(part.type))]
  }
}
function sayPlaces(part: Part, names: Names): string {
  return sayList(
    [
      ...list(part.accounts).map((a) => names.account(Number(a))),
      ...list(part.groups).map((g) => names.group(Number(g))),
    ],
    'or',
  )
}
function join(parts: Piece[][], word: string): Piece[] {
  return parts.flatMap((pieces, n) => (n === 0 ? pieces : [plain(word), ...pieces]))
}

export function sayAction(action: Part, names: Names): Piece[] {
  const done = (text: string): Piece => ({ text, slot: 'do' })
  switch (action.type) {
    case 'priority': {
      const word = PRIORITIES[Number(action.priority)] ?? ''
      return [plain('make it '), { text: word, slot: word === 'Urgent' ? 'urgent' : 'do' }]
    }
    case 'tag':
      return [
        plain(action.person ? 'tag the person ' : 'tag it '),
        done(
          sayList(
            list(action.tags).map((t) => names.tag(Number(t))),
            'and',
          ),
        ),
      ]
    case 'assign':
      return [
        plain('give it to '),
        done(
          action.team != null
            ? names.team(Number(action.team))
            : action.member != null
              ? names.member(Number(action.member))
              : '…',
        ),
      ]
    case 'reply':
      if (action.saved != null)
        return [
          plain(action.offer ? 'offer the answer ' : action.answers ? 'answer with ' : 'acknowledge with '),
          done(`the saved reply ${names.saved(Number(action.saved))}`),
        ]
      return [
        plain(action.offer ? 'offer the answer ' : action.answers ? 'answer ' : 'acknowledge with '),
        done(`“${String(action.text).slice(0, 60)}${String(action.text).length > 60 ? ' …' : ''}”`),
      ]
    case 'like':
      return [done('like it')]
    case 'hide':
      return [done('hide it for review')]
    case 'settle':
      return [plain('settle it as '), done(SETTLED[String(action.how)] ?? '')]
    case 'hand_over':
      return [plain('hand it over to '), done(Number(action.desk) ? names.desk(Number(action.desk)) : '…')]
    case 'park':
      return [plain('park it for '), done(PARKING.find(([key]) => key === action.choice)?.[1].toLowerCase() ?? '')]
    case 'watch':
      return [
        plain('let '),
        done(
          sayList(
            list(action.members).map((m) => names.member(Number(m))),
            'and',
          ),
        ),
        plain(' watch it'),
      ]
    case 'alert':
      return [
        plain('alert '),
        done(
          sayList(
            list(action.members).map((m) => names.member(Number(m))),
            'and',
          ),
        ),
      ]
    case 'consent':
      return [plain('let answers be '), done('approved first')]
    case 'bring_back':
      return [done('bring it back, also when it only thanks')]
    default:
      return [done('stop here')]
  }
}

/** A whole rule: 'When a comment arrives on any account and it …, make it … and give it to …'. */
export function sayRule(body: Body, names: Names): Piece[] {
  const parts = (body.when.parts ?? []) as Part[]
  const actions = body.then as Part[]
  const isAll = body.when.of !== 'any' && body.when.of !== 'none'
  const kind = isAll ? parts.find((p) => p.type === 'kind') : undefined
  const place = isAll ? parts.find((p) => p.type === 'account' || p.type === 'network') : undefined
  const rest = parts.filter((p) => p !== kind && p !== place && (!isAll || p.type !== 'anything'))
  const what = kind
    ? sayList(
        list(kind.kinds).map((k, n) => (n === 0 ? article(KINDS[String(k)] ?? '') : (KINDS[String(k)] ?? ''))),
        'or',
      )
    : 'anything'
  const where = place
    ? place.type === 'account'
      ? sayPlaces(place, names)
      : sayList(
          list(place.networks).map((n) => names.network(String(n))),
          'or',
        )
    : 'any account'
  const pieces: Piece[] = [plain('When '), ask(what), plain(' arrives on '), ask(where)]
  if (rest.length) {
    if (!isAll)
      pieces.push(
        plain(body.when.of === 'none' ? ' and none of this holds: it ' : ' and it '),
        ...join(
          rest.map((p) => sayPart(p, names)),
          ' or it ',
        ),
      )
    else
      pieces.push(
        plain(' and it '),
        ...join(
          rest.map((p) => sayPart(p, names)),
          ' and ',
        ),
      )
  }
  pieces.push(plain(', '))
  actions.forEach((action, n) => {
    if (n) pieces.push(plain(n === actions.length - 1 ? ' and ' : ', '))
    pieces.push(...sayAction(action, names))
  })
  if (!actions.length) pieces.push({ text: '…', slot: 'do' })
  pieces.push(plain('.'))
  return pieces
}

/** What an outcome of a trial is called: 'priority:3', 'team:4', 'answered:saved:5', 'hidden'. */
export function sayOutcome(name: string, names: Names): string {
  const [what = '', which = '', ...rest] = name.split(':')
  const id = Number(which)
  const text = rest.join(':')
  const answer = which === 'saved' ? names.saved(Number(text)) : `“${text.slice(0, 60)}${text.length > 60 ? ' …' : ''}”`
  const said: Record<string, () => string> = {
    priority: () => PRIORITIES[id] ?? name,
    team: () => `Given to ${names.team(id)}`,
    member: () => `Given to ${names.member(id)}`,
    tag: () => `Tagged ${names.tag(id)}`,
    person_tag: () => `The person tagged ${names.tag(id)}`,
    hidden: () => 'Hidden',
    liked: () => 'Liked',
    answered: () => `Answered: ${answer}`,
    offered: () => `Offered: ${answer}`,
    acknowledged: () => `Acknowledged: ${answer}`,
    settled: () => `Settled, ${SETTLED[which] ?? which}`,
    parked: () => `Parked, ${PARKING.find(([key]) => key === which)?.[1].toLowerCase() ?? which}`,
    handed_over: () => `Handed over to ${names.desk(id)}`,
    watch: () => `Watched by ${names.member(id)}`,
    alert: () => `${names.member(id)} alerted`,
    consent: () => 'Answers approved first',
    brought_back: () => 'Brought back',
  }
  return said[what]?.() ?? name
}
/** A warning about a rule; `place` says the other rule's. */
export function sayWarning(
  w: { kind: string; other: number | null; what: string | null },
  place: (id: number | null) => string,
): string {
  if (w.kind === 'never') return 'No message can ever meet this: two of its conditions exclude each other.'
  if (w.kind === 'stopped') return `It never acts: every message it would meet stops at ${place(w.other)}.`
  if (w.kind === 'shadowed')
    return w.other === null
      ? 'It never acts: its answer is written for a language that its messages are not in.'
      : `It never acts: all it does has been decided by ${place(w.other)}.`
  return `It disagrees with ${place(w.other)} about ${EFFECT_WORDS[w.what ?? ''] ?? w.what}; ${place(w.other)} wins.`
}
/** What rules above decide otherwise where both act, in one sentence: that is how an order of rules works, and worth knowing. */
export function sayDisagreements(
  warnings: { kind: string; other: number | null; what: string | null }[],
  place: (id: number | null) => string,
): string {
  const by = new Map<string, string[]>()
  for (const w of warnings.filter((one) => one.kind === 'disagrees'))
    by.set(place(w.other), [...(by.get(place(w.other)) ?? []), EFFECT_WORDS[w.what ?? ''] ?? w.what ?? ''])
  const said = [...by].map(([rule, what]) => `${rule} decides ${sayList(what, 'and')}`)
  return `Where both act, ${sayList(said, 'and')}.`
}
export const EFFECT_WORDS: Record<string, string> = {
  priority: 'the priority',
  assign: 'the owner',
  settle: 'settling',
  reply: 'the answer',
  park: 'parking',
  hand_over: 'handing over',
  bring_back: 'bringing back',
  tag: 'tags',
}
