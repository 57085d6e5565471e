/** The time, moving every few seconds, for what counts down on screen. */
import { onScopeDispose, ref, type Ref } from 'vue'

export function useClock(every = 5000): { now: Ref<number> } {
  const now = ref(Date.now())
  const timer = setInterval(() => (now.value = Date.now()), every)
  onScopeDispose(() => clearInterval(timer))
  return { now }
}
