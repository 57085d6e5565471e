/** Look again soon after something was said, once for all that is said until then: also while something is said all the time. */
import { onScopeDispose } from 'vue'

export function useSoon(look: () => unknown, after: number): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined
  onScopeDispose(() => clearTimeout(timer))
  return () => {
    timer ??= setTimeout(() => {
      timer = undefined
      void look()
    }, after)
  }
}
