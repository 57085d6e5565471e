/**
 * Live notices of a workspace. Tabs of one browser share one event stream, for a browser allows six
 * connections only: the tab that holds the lock listens and tells the others. After any error the stream is opened
 * again with growing pauses, and whatever is shown is asked for again once it is back.
 */
import { useQueryCache } from '@pinia/colada'
import { onScopeDispose, ref, watch, type Ref } from 'vue'
import { ApiProblem } from '@/api/client'
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
    | 'tags'
    | 'alert'
    | 'outgoing'
    | 'approvals'
    | 'cases'
    | 'draft'
    | 'roles'
    | 'draws'
  ids?: number[]
  /** Of one conversation: how far its trail had come. */
  seq?: number
  member?: number
  conversation?: number | null
  trial?: number
  /** Of a greeting: something may have happened that was not heard. */
  gap?: boolean
  doing?: 'reading' | 'writing' | 'answered'
}

/** Several parts of a page listen, and each hears that everything is to be asked for again: it is, once. */
const A_MOMENT = 150
let askedAgainAt = -A_MOMENT
/** Milliseconds before the stream is opened again; the last one repeats. */
const PAUSES = [500, 1000, 2000, 5000, 10_000, 20_000]

function rethrow(error: unknown): void {
  if (!(error instanceof DOMException && error.name === 'AbortError')) throw error
}

/** What could not be asked for again is said by whoever asked for it. */
export function isShown(error: unknown): void {
  if (!(error instanceof ApiProblem)) throw error
}

/** `lostSince` is since when nothing is heard, null while the stream is open. */
export function useLive(
  workspaceId: Ref<number>,
  onNotice: (notice: Notice) => void,
): { lostSince: Ref<number | null> } {
  const lostSince = ref<number | null>(null)
  const session = useSession()
  const cache = useQueryCache()
  let stop = (): void => {}

  /** How far things had come before the page asked for anything. */
  const markOf = (id: number): string => session.marks.get(id) ?? ''
  function listen(id: number): () => void {
    const channel = new BroadcastChannel(`sorta-live-${id}`)
    const ended = new AbortController()
    let source: EventSource | null = null
    let timer: ReturnType<typeof setTimeout> | undefined
    let tries = 0
    const handle = (notice: Notice | { lost: number | null }): void => {
      if ('lost' in notice) {
        lostSince.value = notice.lost
        return
      }
      // What one may do here may have changed with it.
      if (notice.kind === 'roles') void session.renew()
      // Nobody knows what was missed: all that is on the screen is asked for again.
      if (notice.kind === 'everything' && performance.now() - askedAgainAt > A_MOMENT) {
        askedAgainAt = performance.now()
        cache.invalidateQueries().catch(isShown)
      }
      onNotice(notice)
    }
    channel.onmessage = (event: MessageEvent<Notice>) => handle(event.data)
    const tell = (notice: Notice | { lost: number | null }): void => {
      handle(notice)
      channel.postMessage(notice)
    }
    const lose = (): void => tell({ lost: lostSince.value ?? Date.now() })
    /** The stream greets each time it opens. What happened before that, while nobody listened, has to be fetched. */
    const open = (hadGap: boolean): void => {
      clearTimeout(timer)
      if (ended.signal.aborted) return
      source?.close()
      const since = hadGap ? '' : markOf(id)
      source = new EventSource(`/api/workspaces/${id}/live?since=${since}`)
      source.onmessage = (event: MessageEvent<string>) => {
        const notice = JSON.parse(event.data) as Notice
        if (notice.kind !== 'hello') return tell(notice)
        tries = 0
        tell({ lost: null })
        // What happened between the page's first asking and this greeting has passed by unheard.
        if (notice.gap) hadGap = true
        tell(hadGap ? { kind: 'everything' } : notice)
        hadGap = true
      }
      source.onerror = () => {
        // A stream that the server answers with an error is never opened again by the browser itself.
        source?.close()
        lose()
        // Whether one is still signed in is not told by the stream.
        if (tries > 0 && session.gate === null) void session.renew()
        timer = setTimeout(() => open(true), PAUSES[Math.min(tries++, PAUSES.length - 1)])
      }
    }
    const again = (): void => {
      if (source && lostSince.value !== null) open(true)
    }
    const onOffline = (): void => {
      if (!source) return
      source.close()
      lose()
    }
    window.addEventListener('online', again)
    window.addEventListener('offline', onOffline)
    const unwatch = watch(() => session.renewals, again)
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
      clearTimeout(timer)
      unwatch()
      window.removeEventListener('online', again)
      window.removeEventListener('offline', onOffline)
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
  return { lostSince }
}
