/** Why a conversation is as it is: the latest event that set each thing and was not taken back. */
import type { EventOf, TrailEvent } from '@/api/types'
import { listUndone } from './left'

export type Why =
  | { what: 'priority'; event: EventOf<'prioritised'> }
  | { what: 'owner'; event: EventOf<'assigned'> }
  | { what: 'tag'; event: EventOf<'tagged'> }
  | { what: 'settled'; event: EventOf<'settled' | 'handed_over'> }
  | { what: 'parked'; event: EventOf<'parked'> }

function findSet(event: TrailEvent, tags: number[]): Why | null {
  switch (event.kind) {
    case 'prioritised':
      return { what: 'priority', event }
    case 'assigned':
      return { what: 'owner', event }
    case 'settled':
    case 'handed_over':
      return { what: 'settled', event }
    case 'parked':
      return { what: 'parked', event }
    case 'tagged':
      return tags.includes(event.data.tag) ? { what: 'tag', event } : null
    default:
      return null
  }
}

/** What stands now, each with the event behind it; `tags` are those the conversation has. */
export function listWhy(trail: TrailEvent[], tags: number[]): Why[] {
  const undone = listUndone(trail)
  const found = new Map<string, Why>()
  for (const event of trail) {
    if (undone.has(event.seq)) continue
    const why = findSet(event, tags)
    if (why) found.set(why.what === 'tag' ? `tag ${why.event.data.tag}` : why.what, why)
    if (['arrived', 'reopened', 'kept', 'returned'].includes(event.kind))
      for (const over of ['settled', 'parked']) found.delete(over)
  }
  return [...found.values()]
}

const VALUES: Record<string, (value: string) => string> = {
  reach: (v) => `reach ${v}`,
  standing: (v) => `standing ${v}`,
  sentiment: (v) => `sentiment ${v.replace('-', '−')}`,
  reads_as: (v) => `reads as ${v}`,
  bare_mention: (v) => `${v} other characters`,
  hours: (v) => v,
  window: (v) => v,
  rating: (v) => `${v} stars`,
  language: (v) => `language ${v}`,
}
/** The evidence in words: “cut on”, reads as complaint, reach 71. */
export function sayEvidence(evidence: NonNullable<TrailEvent['rule']>['evidence']): string {
  return evidence
    .flatMap((e) => {
      const value = e.value && VALUES[e.type]?.(e.value)
      return [...(value ? [value] : []), ...e.words.map((w) => `“${w}”`)]
    })
    .join(', ')
}
