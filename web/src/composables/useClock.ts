/** The time, moving every few seconds, for what counts down on screen. Whoever looks as often shares one clock. */
import { onScopeDispose, ref, type Ref } from 'vue'

interface Clock {
  now: Ref<number>
  timer: ReturnType<typeof setInterval>
  users: number
}
const clocks = new Map<number, Clock>()

export function useClock(every = 5000): { now: Ref<number> } {
  let clock = clocks.get(every)
  if (!clock) {
    const now = ref(Date.now())
    clock = { now, timer: setInterval(() => (now.value = Date.now()), every), users: 0 }
    clocks.set(every, clock)
  }
  const mine = clock
  mine.users++
  onScopeDispose(() => {
    if (--mine.users) return
    clearInterval(mine.timer)
    clocks.delete(every)
  })
  return { now: mine.now }
}
