/** The trail in words: every kind of event has its sentence, or this does not compile. */
import type { TrailEvent } from '@/api/types'
import { CASE_WORDS } from '@/features/cases/useCases'
import { sayLanguage } from '@/lib/filters'
import { MODERATION, PRIORITIES, SETTLED } from '@/lib/words'

/** What numbers are called here, and how a time is said. */
export interface EventNames {
  member: (id: number | null) => string
  team: (id: number) => string
  tag: (id: number) => string
  sender: (id: number) => string
  time: (at: string) => string
}

const sayValue = (value: unknown): string =>
  (Array.isArray(value) ? value.join(' and ').replace('_', ' ') : value == null ? '' : String(value)) || 'none'
/** What a reading was taken for and is now: a language by its name, a feeling as the scale from -1 to 1 has it. */
function sayCorrected(field: string, was: unknown, now: unknown): string {
  const value = (one: unknown): string =>
    field === 'language' && one ? sayLanguage(String(one)) : typeof one === 'number' ? one.toFixed(1) : sayValue(one)
  const of = { reads_as: 'what it reads as', sentiment: 'the sentiment', language: 'the language' }[field] ?? field
  return `${of}: ${value(was)}, now ${value(now)}`
}
/** A line of the trail; `isPublic` when the conversation is one that anyone can read. */
export function sayEvent(e: TrailEvent, names: EventNames, isPublic: boolean): string {
  const { rule } = e
  const who = rule ? `Rule “${rule.name}”` : names.member(e.member_id)
  switch (e.kind) {
    case 'arrived':
      return e.data.thanks ? 'Arrived; it only thanks' : 'Arrived'
    case 'linked':
      return isPublic ? 'They went on in private' : 'It began in public; we went on here'
    case 'edited':
      return `Edited outside; before: “${e.data.before}”`
    case 'removed':
      return 'Removed outside'
    case 'answered_outside':
      return 'Answered on the network itself'
    case 'assigned':
      return e.data.team
        ? `${who} gave it to ${names.team(e.data.team)}${e.data.owner ? `, ${names.member(e.data.owner)}` : ''}`
        : e.data.owner === null
          ? `${who} left it to nobody`
          : e.data.owner === e.member_id
            ? `${who} took it`
            : `${who} gave it to ${names.member(e.data.owner)}`
    case 'prioritised':
      return `${who} made it ${PRIORITIES[e.data.priority]}`
    case 'noted':
      return `${who} wrote a note`
    case 'tagged':
      return `${who} tagged it ${names.tag(e.data.tag)}`
    case 'untagged':
      return `${who} took the tag ${names.tag(e.data.tag)} off`
    case 'tag_merged':
      return `The tag ${names.tag(e.data.tag)} became ${names.tag(e.data.into)}`
    case 'person_tagged':
      return `${who} tagged the person ${names.tag(e.data.tag)}`
    case 'person_untagged':
      return `${who} took the person's tag ${names.tag(e.data.tag)} off`
    case 'watched':
      return rule ? `${who} lets ${names.member(e.data.member)} watch it` : `${who} watches it`
    case 'offered':
      return `${who} offered an answer`
    case 'alerted':
      return `${who} alerted ${e.data.members.map((m) => names.member(m)).join(', ')}`
    case 'reopened':
      return e.member_id || rule ? `${who} brought it back` : 'Came back: something of theirs waits'
    case 'unwatched':
      return `${who} stopped watching`
    case 'corrected':
      return `${who} corrected ${sayCorrected(e.data.field, e.data.was, e.data.now)}`
    case 'moderated':
      return `${who} asked the network: ${MODERATION[e.data.what]?.word.toLowerCase()}`
    case 'moderation_done':
      return `The network ${MODERATION[e.data.what]?.done}`
    case 'moderation_refused':
      return `The network would not (${MODERATION[e.data.what]?.word.toLowerCase()}): ${e.data.reason}`
    case 'kept':
      return `${who} kept it`
    case 'parked':
      return `${who} parked it until ${names.time(e.data.until)}`
    case 'returned':
      return 'Came back from parking'
    case 'settled':
      return `${e.member_id || rule ? who : 'Sorta'} settled it: ${SETTLED[e.data.how]}`
    case 'replied':
      return `${who} ${!e.data.answers ? 'acknowledged' : 'replied'} ${e.data.public ? 'publicly' : 'privately'}${e.data.account ? ` as ${names.sender(e.data.account)}` : ''}${e.data.settle ? ' and settled it' : ''}`
    case 'proposed':
      return `${who} asked for approval of a ${e.data.public ? 'public' : 'private'} answer`
    case 'consented':
      return `${who} approved it${e.data.edited ? ', with a change' : ''}`
    case 'changed':
      return `${who} looked at the answer again`
    case 'sent_back':
      return `${who} sent the answer back: ${e.data.reason}`
    case 'withdrawn':
      return e.data.reason ? `The answer was withdrawn: ${e.data.reason}` : `${who} withdrew the answer`
    case 'consent_asked':
      return `${who} wants answers approved here`
    case 'scheduled':
      return `${who} ${e.data.again ? 'changed it' : 'wrote an answer'} to be sent ${names.time(e.data.until)}`
    case 'unscheduled':
      return e.data.reason ? `Not sent at its time: ${e.data.reason}` : `${who} took back what was to be sent later`
    case 'advice_asked':
      return `${who} asked ${e.data.to} by mail`
    case 'advice_given':
      return `${e.data.to} answered by mail`
    case 'advice_overdue':
      return `No answer came from ${e.data.to}`
    case 'advice_withdrawn':
      return `${who} no longer waits for ${e.data.to}`
    case 'advice_refused':
      return `The mail to ${e.data.to} could not be sent`
    case 'handed_over':
      return `${who} ${e.data.joined ? 'passed it on to' : 'handed it over to'} ${e.data.desk}`
    case 'case_told':
      return `${e.data.by}: ${CASE_WORDS[e.data.state]?.toLowerCase()}${e.data.remark ? `, “${e.data.remark}”` : ''}`
    case 'delivered':
      return 'Delivered'
    case 'stuck':
      return `Not out yet: ${e.data.reason}`
    case 'refused':
      return `Refused: ${e.data.reason}`
    case 'undone':
      return e.data.reason ? `Taken back: ${e.data.reason}` : `${who} took that back`
    default: {
      const unsaid: never = e
      return unsaid
    }
  }
}
