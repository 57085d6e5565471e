/** What is decided about the open conversation, each by one key and by its words in find-or-do. */
import { computed, type ComputedRef, type Ref } from 'vue'
import type { Keys } from '@/lib/keyRouter'
import type { Doable } from '@/features/find/FindPalette.vue'

export interface Decision {
  /** As `useKeys` has it. */
  key: string
  /** As it stands on a key, with its words; without them it is not offered in find-or-do. */
  cap?: string
  words?: string
  run: () => void
  isOffered?: () => boolean
}

export function useDecisions(
  decisions: Decision[],
  mayDecide: Ref<boolean>,
): { keys: Keys; doables: ComputedRef<Doable[]> } {
  const guard = (run: () => void) => (): void => {
    if (mayDecide.value) run()
  }
  const keys = Object.fromEntries(decisions.map((d) => [d.key, guard(() => d.isOffered?.() !== false && d.run())]))
  const doables = computed<Doable[]>(() => {
    if (!mayDecide.value) return []
    return decisions.flatMap(({ words, cap, run, isOffered }) =>
      words && isOffered?.() !== false ? [{ words, run, ...(cap ? { key: cap } : {}) }] : [],
    )
  })
  return { keys, doables }
}
