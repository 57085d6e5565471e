/** A place that could not be opened: a part of the pages does not load, also anew, or the server did not answer. */
import { ref, type Ref } from 'vue'

const failed = ref<{ path: string; reason: string } | null>(null)
export function useRenewal(): { failed: Ref<{ path: string; reason: string } | null> } {
  return { failed }
}
