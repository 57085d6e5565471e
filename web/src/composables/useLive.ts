/**
 * Live notices of a workspace. Tabs of one browser share one event stream, for a browser allows six
 * connections only: the tab that holds the lock listens and tells the others.
 */
import { onScopeDispose, ref, watch, type Ref } from 'vue'
import { useSession } from '@/stores/session'

export interface Notice {
  kind:
    | 'hello'
    | 'everything'
    | 'conversations'
    | 'presence'
    | 'accounts'
    | 'refused'
    | 'reaction'
    | 'people'
    | 'hours'
    | 'rules'
    | 'trial'
    | 'team'
    | 'alert'
    | 'outgoing'
    | 'approvals'
    | 'cases'
    | 'draft'
    | 'roles'
  ids?: number[]
  member?: number
  conversation?: number | null
  trial?: number
  doing?: 'reading' | 'writing' | 'answered'
}

function rethrow(error: unknown): void {
  if (!(error instanceof DOMException && error.name === 'AbortError')) throw error
}

export function useLive(workspaceId: Ref<number>, onNotice: (notice: Notice) => void): { connected: Ref<boolean> } {
  const connected = ref(true)
  const session = useSession()
  let stop = (): void => {}

  function listen(id: number): () => void {
    const channel = new BroadcastChannel(`sorta-live-${id}`)
    const ended = new AbortController()
    let source: EventSource | null = null
    const handle = (notice: Notice | { connected: boolean }): void => {
      if ('connected' in notice) connected.value = notice.connected
      else {
        // What one may do here may have changed with it.
        if (notice.kind === 'roles') void session.refresh()
        onNotice(notice)
      }
    }
    channel.onmessage = (event: MessageEvent<Notice>) => handle(event.data)
    const tell = (notice: Notice | { connected: boolean }): void => {
      handle(notice)
      channel.postMessage(notice)
    }
    /** The stream greets each time it opens. What happened before that, while nobody listened, has to be fetched anew. */
    const open = (hadGap: boolean): void => {
      source = new EventSource(`/api/workspaces/${id}/live`)
      source.onmessage = (event: MessageEvent<string>) => {
        const notice = JSON.parse(event.data) as Notice
        if (notice.kind !== 'hello') return tell(notice)
        tell(hadGap ? { kind: 'everything' } : notice)
        hadGap = true
      }
      source.onopen = () => tell({ connected: true })
      source.onerror = () => tell({ connected: false })
    }
    if (navigator.locks) {
      const held = new Promise<void>((resolve) => ended.signal.addEventListener('abort', () => resolve()))
      const name = `sorta-live-${id}`
      const keep = (hadGap: boolean): Promise<void> => {
        open(hadGap)
        return held
      }
      navigator.locks
        .request(name, { ifAvailable: true }, (lock) =>
          ended.signal.aborted ? undefined : lock ? keep(false) : wait(),
        )
        .catch(rethrow)
      function wait(): void {
        navigator.locks.request(name, { signal: ended.signal }, () => keep(true)).catch(rethrow)
      }
    } else {
      open(false)
    }
    return () => {
      ended.abort()
      source?.close()
      channel.close()
    }
  }

  watch(
    workspaceId,
    (id) => {
      stop()
      stop = id ? listen(id) : () => {}
    },
    { immediate: true },
  )
  onScopeDispose(() => stop())
  return { connected }
}
