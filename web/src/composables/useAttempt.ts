/** Something tried with the server's leave: what it refuses is said in `problem`, any other error goes on. */
import { ref } from 'vue'
import { ApiProblem } from '@/api/client'

/** `after` is done after each try, however it ended. */
export function useAttempt(after?: () => Promise<unknown>) {
  const problem = ref('')
  const isBusy = ref(false)
  /** True when it was not refused. */
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    problem.value = ''
    isBusy.value = true
    try {
      await work()
      return true
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = error.message
      return false
    } finally {
      isBusy.value = false
      await after?.()
    }
  }
  return { problem, isBusy, attempt }
}
