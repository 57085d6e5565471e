/**
 * Live notices of a workspace. Tabs of one browser share one event stream, for a browser allows six
 * connections only: the tab that holds the lock listens and tells the others.
 */
import { onScopeDispose, ref, watch, type Ref } from 'vue'

export interface Notice {
  kind: 'hello' | 'everything' | 'conversations' | 'presence' | 'accounts' | 'refused'
  ids?: number[]
  member?: number
  conversation?: number | null
  doing?: 'reading' | 'writing'
}

export function useLive(workspaceId: Ref<number>, onNotice: (notice: Notice) => void): { connected: Ref<boolean> } {
  const connected = ref(true)
  let stop = (): void => {}

  function listen(id: number): () => void {
    const channel = new BroadcastChannel(`sorta-live-${id}`)
    const ended = new AbortController()
    let source: EventSource | null = null
    const handle = (notice: Notice | { connected: boolean }): void => {
      if ('connected' in notice) connected.value = notice.connected
      else onNotice(notice)
    }
    channel.onmessage = (event: MessageEvent<Notice>) => handle(event.data)
    const tell = (notice: Notice | { connected: boolean }): void => {
      handle(notice)
      channel.postMessage(notice)
    }
    const open = (): void => {
      source = new EventSource(`/api/workspaces/${id}/live`)
      source.onmessage = (event: MessageEvent<string>) => tell(JSON.parse(event.data) as Notice)
      source.onopen = () => tell({ connected: true })
      source.onerror = () => tell({ connected: false })
    }
    if (navigator.locks) {
      const held = new Promise<void>((resolve) => ended.signal.addEventListener('abort', () => resolve()))
      navigator.locks
        .request(`sorta-live-${id}`, { signal: ended.signal }, () => {
          open()
          return held
        })
        .catch((error: unknown) => {
          if (!(error instanceof DOMException && error.name === 'AbortError')) throw error
        })
    } else {
      open()
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
