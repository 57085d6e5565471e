/** The answer that a rule offers for the open conversation, as long as nobody has answered or ended it since. */
import { computed, type ComputedRef, type Ref } from 'vue'
import type { Sheet, TrailEvent } from '@/api/types'
import { listUndone } from './left'

export interface Offer {
  rule: string
  text: string
  saved: number | null
  public: boolean
}
/** What comes after an offer and leaves nothing of it. */
const OVER = new Set<TrailEvent['kind']>([
  'replied',
  'answered_outside',
  'scheduled',
  'proposed',
  'settled',
  'handed_over',
])

export function useOffer(sheet: Ref<Sheet | null | undefined>): ComputedRef<Offer | null> {
  return computed(() => {
    const trail = sheet.value?.trail ?? []
    const undone = listUndone(trail)
    let offer: Offer | null = null
    for (const e of [...trail].sort((a, b) => a.seq - b.seq)) {
      if (undone.has(e.seq)) continue
      if (e.kind === 'offered')
        offer = {
          rule: e.rule?.name ?? '',
          text: e.data.text,
          saved: e.data.saved ?? null,
          public: e.data.public,
        }
      else if (OVER.has(e.kind)) offer = null
    }
    return offer
  })
}
