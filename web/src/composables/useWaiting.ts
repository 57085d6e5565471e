/** What waits, for places one is not looking at: the browser's tab, and a notification where that is allowed. */
import { onScopeDispose, ref, watch, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Waiting } from '@/api/types'
import { useLive } from '@/composables/useLive'

const EVERY = 30_000
const PAUSE = 1_500
const KEPT = 'sorta-notify'

export function useWaiting(workspaceId: Ref<number>, workspaceName: Ref<string>) {
  const waiting = ref<Waiting | null>(null)
  const wants = ref(
    localStorage.getItem(KEPT) === 'yes' && 'Notification' in window && Notification.permission === 'granted',
  )
  let timer: ReturnType<typeof setTimeout> | undefined

  async function load(): Promise<void> {
    timer = undefined
    const id = workspaceId.value
    if (!id) return
    try {
      const now = await take(
        api.GET('/api/workspaces/{workspace_id}/waiting', { params: { path: { workspace_id: id } } }),
      )
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
    const more = now.unsorted + now.our_move - before.unsorted - before.our_move
    if (more > 0)
      new Notification(`Sorta: ${more} more to look at`, {
        body: `${workspaceName.value}: ${now.unsorted} unsorted, ${now.late} late`,
        tag: 'sorta',
      })
    if (now.follow_ups > before.follow_ups)
      new Notification('Sorta: a follow-up is due', { body: workspaceName.value, tag: 'sorta-follow-up' })
  }
  const soon = (): void => {
    timer ??= setTimeout(() => void load(), PAUSE)
  }
  useLive(workspaceId, (notice) => {
    if (['conversations', 'people', 'rules', 'alert', 'outgoing', 'approvals', 'everything'].includes(notice.kind))
      soon()
  })
  const round = setInterval(() => void load(), EVERY)
  watch(workspaceId, () => ((waiting.value = null), void load()), { immediate: true })
  watch(
    waiting,
    (w) => {
      const n = w ? w.unsorted + w.our_move : 0
      document.title = n ? `(${n}) Sorta` : 'Sorta'
    },
    { immediate: true },
  )
  onScopeDispose(() => (clearTimeout(timer), clearInterval(round)))

  /** Ask the browser once; what was chosen is kept on this device. */
  async function toggle(): Promise<void> {
    if (wants.value) wants.value = false
    else if ('Notification' in window) wants.value = (await Notification.requestPermission()) === 'granted'
    localStorage.setItem(KEPT, wants.value ? 'yes' : 'no')
  }
  return { waiting, wants, toggle, soon }
}
