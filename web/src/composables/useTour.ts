/** The five things that are pointed at on a first visit; what points at them asks here whether it is one. */
import { computed } from 'vue'
import { useSession } from '@/stores/session'

export const POINTS = [
  'Whose move it is: what nobody has looked at yet, what waits for us, what waits for them.',
  'What falls due, hour by hour. Choose a stretch and the list below shows it.',
  'Filter by anything, and keep what you filter by as a view.',
  'The list, the most pressing first. ↓ opens the next, and every button says its key.',
  'Find anything, go anywhere, do anything by name. ? shows all keys.',
] as const

export function useTour() {
  const session = useSession()
  const isFirstVisit = computed(() => session.session?.screen.shown_around === false)
  return { isFirstVisit, end: () => session.setScreen({ shown_around: true }) }
}
