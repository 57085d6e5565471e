/** Coming in by a link, or by somebody's word: who has to show a second thing besides does so where one signs in. */
import { useRouter } from 'vue-router'
import { useAttempt } from '@/composables/useAttempt'

/** `takeNext` is where one was going, if that is known. */
export function useEntering(takeNext?: () => string) {
  const router = useRouter()
  return useAttempt(undefined, async (refusal) => {
    if (refusal.kind !== 'second-step') return false
    await router.replace({ name: 'sign-in', ...(takeNext ? { query: { next: takeNext() } } : {}) })
    return true
  })
}
