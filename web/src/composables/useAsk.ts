/**
 * The one way to ask the server for what a page shows. What was asked for is waiting, failed or there, and says so:
 * where a `LoadState` shows the part, in its place; else in the line over the page, so that no failure goes unseen.
 */
import { useInfiniteQuery, useQuery } from '@pinia/colada'
import { computed, onScopeDispose, reactive, shallowReactive, watch, type Ref } from 'vue'
import { ApiProblem } from '@/api/client'

type Key = (string | number | boolean)[]

export interface Ask {
  /** As it is said in 'The rules could not be loaded'. */
  readonly what: string
  readonly isThere: boolean
  readonly problem: ApiProblem | null
  readonly retry: () => void
  readonly refetch: () => void
  /** How many parts of the page show it in its place. */
  shownBy: number
}

/** The asks of the page that failed. */
const failed = shallowReactive(new Map<symbol, Ask>())
export interface Failure {
  what: string
  reason: string
  reference: string | null
  retry: () => void
}
const lower = (words: string): string => words.charAt(0).toLowerCase() + words.slice(1)
/** What failed and is shown by no part of the page: what failed for one reason in one line. */
export function useFailures(): { failures: Ref<Failure[]> } {
  const failures = computed(() => {
    const found = [...failed.values()]
    const inPlace = new Set(found.filter((a) => a.shownBy > 0).map((a) => a.what))
    const lines = new Map<string, Failure>()
    const said = new Set<string>()
    for (const { what, problem, retry } of found) {
      const reason = problem?.message ?? ''
      const line = lines.get(reason)
      if (inPlace.has(what) || said.has(what)) continue
      said.add(what)
      if (line) line.what += `, ${lower(what)}`
      else lines.set(reason, { what, reason, reference: problem?.reference ?? null, retry })
    }
    return [...lines.values()]
  })
  return { failures }
}

/** What was asked for, said where it failed. */
function tellOf<T>(what: string, data: Ref<T | undefined>, error: Ref<Error | null>, askAgain: () => Promise<unknown>) {
  /** Ask again. A newer asking puts an older one aside: whoever waits for either waits for what the newest brings. */
  let newest: Promise<unknown> | null = null
  async function refetch(): Promise<void> {
    newest = askAgain()
    for (let mine: Promise<unknown> | null = null; mine !== newest;) {
      mine = newest
      await mine
    }
  }
  // A mistake of ours is no answer of the server: it must show as what it is.
  watch(error, (found) => {
    if (found !== null && !(found instanceof ApiProblem)) throw found
  })
  const problem = computed(() => (error.value instanceof ApiProblem ? error.value : null))
  const ask: Ask = reactive({
    what,
    isThere: computed(() => data.value !== undefined),
    problem,
    // What failed together mostly failed for one reason: all of it is asked for again.
    retry: () => failed.forEach((a) => a.refetch()),
    refetch: () => void refetch(),
    shownBy: 0,
  })
  const me = Symbol(what)
  watch(problem, (is) => (is ? failed.set(me, ask) : failed.delete(me)), { immediate: problem.value !== null })
  onScopeDispose(() => failed.delete(me))
  return { error: problem, refetch, ask }
}

export function useAsk<T>(
  what: string,
  options: {
    key: Key | (() => Key)
    query: () => Promise<T>
    staleTime?: number
    enabled?: () => boolean
    placeholderData?: (before: T | undefined) => T | undefined
  },
) {
  const { data, error, refetch } = useQuery<T>(options)
  return { data, ...tellOf(what, data, error, refetch) }
}

/** The same page after page: `next` says from where the one after a page is asked for, null where there is none. */
export function useAskPages<P, From extends string | number>(
  what: string,
  options: {
    key: () => Key
    query: (from: From | null) => Promise<P>
    next: (last: P) => From | null
    staleTime?: number
    enabled?: () => boolean
  },
) {
  const { data, error, refetch, hasNextPage, loadNextPage } = useInfiniteQuery<P, Error, From | null>({
    ...options,
    // Through other filters one looks at what was there until what fits is there.
    placeholderData: (before) => before,
    query: ({ pageParam }) => options.query(pageParam),
    initialPageParam: null,
    getNextPageParam: options.next,
  })
  const pages = computed(() => data.value?.pages)
  /** One at a time: who scrolls on while a page is on its way asks for nothing. */
  const more = (): Promise<unknown> => loadNextPage({ cancelRefetch: false })
  return { pages, hasMore: hasNextPage, more, ...tellOf(what, data, error, refetch) }
}
