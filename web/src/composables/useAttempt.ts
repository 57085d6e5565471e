/** Something tried with the server's leave: what it refuses is said in `problem`, any other error goes on. */
import { ref } from 'vue'
import { ApiProblem } from '@/api/client'

/** `after` is done after each try, however it ended; a refusal that `takes` says yes to is dealt with and not said. */
export function useAttempt(after?: () => Promise<unknown>, takes?: (refusal: ApiProblem) => unknown) {
  const problem = ref('')
  const isBusy = ref(false)
  /** What it brings; null where it was refused. */
  async function attemptFor<T>(work: () => Promise<T>): Promise<T | null> {
    problem.value = ''
    isBusy.value = true
    try {
      return await work()
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      if (!(await takes?.(error))) problem.value = error.message
      return null
    } finally {
      isBusy.value = false
      await after?.()
    }
  }
  /** True when it was not refused. */
  const attempt = async (work: () => Promise<unknown>): Promise<boolean> =>
    (await attemptFor(async () => {
      await work()
      return true
    })) !== null
  return { problem, isBusy, attempt, attemptFor }
}
