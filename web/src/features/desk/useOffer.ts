/** The answer that a rule offers for the open conversation, as long as nobody has answered or ended it since. */
import { computed, type ComputedRef, type Ref } from 'vue'
import type { Sheet } from '@/api/types'
import { ruleOf } from '@/lib/why'

export interface Offer {
  rule: string
  text: string
  saved: number | null
  public: boolean
}
/** What comes after an offer and leaves nothing of it. */
const OVER = new Set(['replied', 'answered_outside', 'scheduled', 'proposed', 'settled', 'handed_over', 'sent_outside'])

export function useOffer(sheet: Ref<Sheet | null | undefined>): ComputedRef<Offer | null> {
  return computed(() => {
    const trail = sheet.value?.trail ?? []
    const undone = new Set(trail.filter((e) => e.kind === 'undone').map((e) => Number(e.data.of)))
    let offer: Offer | null = null
    for (const e of [...trail].sort((a, b) => a.seq - b.seq)) {
      if (undone.has(e.seq)) continue
      if (e.kind === 'offered')
        offer = {
          rule: ruleOf(e)?.name ?? '',
          text: String(e.data.text),
          saved: typeof e.data.saved === 'number' ? e.data.saved : null,
          public: Boolean(e.data.public),
        }
      else if (OVER.has(e.kind)) offer = null
    }
    return offer
  })
}
