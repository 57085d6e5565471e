/** What waits, for places one is not looking at: the browser's tab, and a notification where that is allowed. */
import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Screen, Waiting } from '@/api/types'
import { useLive } from '@/composables/useLive'
import { useSoon } from '@/composables/useSoon'
import { takeFirst } from '@/api/first'
import { waits } from '@/lib/title'
import { useSession } from '@/stores/session'

/** What happens is told by the live stream; only the clock's part, what has become late, is asked for. */
const EVERY = 60_000
const PAUSE = 1_500
const KEPT = 'sorta-notify'

/** What the number on the tab counts, as the member wants it. */
const countOf = (w: Waiting, what: Screen['tab']): number =>
  what === 'mine' ? w.mine : what === 'team' ? w.mine + w.my_team : w.unsorted + w.our_move

export function useWaiting(workspaceId: Ref<number>, workspaceName: Ref<string>) {
  const session = useSession()
  const tab = computed(() => session.session?.screen.tab ?? 'all')
  /** The browser was told to let no notification through: said, with what to do. */
  const blocked = ref(false)
  const waiting = ref<Waiting | null>(null)
  const wants = ref(
    localStorage.getItem(KEPT) === 'yes' && 'Notification' in window && Notification.permission === 'granted',
  )

  async function load(): Promise<void> {
    const id = workspaceId.value
    if (!id) return
    try {
      const now = await (takeFirst(id, 'waiting') ??
        take(api.GET('/api/workspaces/{workspace_id}/waiting', { params: { path: { workspace_id: id } } })))
      if (id !== workspaceId.value) return
      tell(waiting.value, now)
      waiting.value = now
    } catch (error) {
      // The band already says that the connection is lost; the next round asks again.
      if (!(error instanceof ApiProblem)) throw error
    }
  }
  /** Something more waits, and nobody is looking: say so. */
  function tell(before: Waiting | null, now: Waiting): void {
    if (before && wants.value && document.hidden && now.device_alerts > before.device_alerts)
      new Notification('Sorta: you were told something', { body: workspaceName.value, tag: 'sorta-alert' })
    if (!before || !wants.value || !document.hidden) return
    const more = countOf(now, tab.value) - countOf(before, tab.value)
    if (more > 0)
      new Notification(`Sorta: ${more} more to look at`, {
        body: `${workspaceName.value}: ${tab.value === 'all' ? `${now.unsorted} unsorted, ${now.late} late` : `${countOf(now, tab.value)} wait for you`}`,
        tag: 'sorta',
      })
    if (now.follow_ups > before.follow_ups)
      new Notification('Sorta: a follow-up is due', { body: workspaceName.value, tag: 'sorta-follow-up' })
  }
  const soon = useSoon(load, PAUSE)
  useLive(workspaceId, (notice) => {
    if (['conversations', 'people', 'rules', 'alert', 'outgoing', 'approvals', 'everything'].includes(notice.kind))
      soon()
  })
  const round = setInterval(() => void load(), EVERY)
  watch(workspaceId, () => ((waiting.value = null), void load()), { immediate: true })
  watch([waiting, tab], ([w, what]) => (waits.value = w ? countOf(w, what) : 0), { immediate: true })
  onScopeDispose(() => clearInterval(round))

  /** Ask the browser once; what was chosen is kept on this device. */
  async function toggle(): Promise<void> {
    if (wants.value) wants.value = false
    else {
      const answer = 'Notification' in window ? await Notification.requestPermission() : 'denied'
      wants.value = answer === 'granted'
      blocked.value = answer === 'denied'
    }
    localStorage.setItem(KEPT, wants.value ? 'yes' : 'no')
  }
  return { waiting, wants, blocked, toggle, soon }
}
