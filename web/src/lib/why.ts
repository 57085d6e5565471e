/** Why a conversation is as it is: the latest event that set each thing and was not taken back. */
import type { Fact } from '@/lib/shapes'

export interface Why {
  what: 'priority' | 'owner' | 'tag' | 'settled' | 'parked'
  event: Fact
}
const KINDS: Record<string, Why['what']> = {
  prioritised: 'priority',
  assigned: 'owner',
  settled: 'settled',
  handed_over: 'settled',
  parked: 'parked',
}

/** What stands now, each with the event behind it; `tags` are those the conversation has. */
export function listWhy(trail: Fact[], tags: number[]): Why[] {
  const undone = new Set(trail.filter((e) => e.kind === 'undone').map((e) => Number(e.data.of)))
  const found = new Map<string, Why>()
  for (const event of trail) {
    if (undone.has(event.seq)) continue
    const what = KINDS[event.kind]
    if (what) found.set(what, { what, event })
    else if (event.kind === 'tagged' && tags.includes(Number(event.data.tag)))
      found.set(`tag ${Number(event.data.tag)}`, { what: 'tag', event })
    if (['arrived', 'reopened', 'kept', 'returned'].includes(event.kind))
      for (const over of ['settled', 'parked']) found.delete(over)
  }
  return [...found.values()]
}

/** What a rule left in the trail with an event. */
export interface ByRule {
  id: number
  version: number
  name: string
  evidence: { type: string; words: string[]; value: string | null }[]
}
export const ruleOf = (event: Fact): ByRule | null => (event.data.rule as ByRule | undefined) ?? null
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
export function sayEvidence(evidence: ByRule['evidence']): string {
  return evidence
    .flatMap((e) => {
      const value = e.value && VALUES[e.type]?.(e.value)
      return [...(value ? [value] : []), ...e.words.map((w) => `“${w}”`)]
    })
    .join(', ')
}
