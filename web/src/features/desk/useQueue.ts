/**
 * The queue of one move: its beginning as far as it is loaded and, once one has gone to its end, the end too. What is on screen stays where it is: news waits behind 'n new, show', and a row
 * that somebody else moved on is marked, not taken away, until the list is shown anew.
 */
import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Counts, Row, Standing } from '@/api/types'
import { layOut, type Line } from '@/lib/bands'
import { inOrder } from '@/lib/order'
import { orderOf, toApi, type Filters, type Order } from '@/lib/filters'
import { PAGE, takeFirst } from '@/api/first'

/** So many conversations are asked for at once by their numbers. */
const MOST_IDS = 200

/** The server says where a row stands in the order that was asked for. */
const compare = (a: Row, b: Row): number => {
  const n = a.place.findIndex((one, at) => one !== b.place[at])
  return n < 0 ? 0 : (a.place[n] ?? 0) - (b.place[n] ?? 0)
}
export const cursorOf = (row: Row): string => row.place.join(',')

export function useQueue(
  workspaceId: Ref<number>,
  move: Ref<Standing>,
  filters: Ref<Filters>,
  chosen: Ref<Order | undefined>,
) {
  const head = shallowRef<Row[]>([])
  const tail = shallowRef<Row[]>([])
  const rows = computed(() => (tail.value.length ? [...head.value, ...tail.value] : head.value))
  /** The last row of the beginning and the first of the end, as they were when they came: one's place may change meanwhile. */
  let low: Row | undefined
  let high: Row | undefined
  const waiting = shallowRef<Row[]>([])
  const counts = shallowRef<Counts | null>(null)
  const isFirst = ref(true)
  const ended = ref(false)
  const problem = ref<ApiProblem | null>(null)
  const countsOrder = inOrder()
  const stands = (row: Row): boolean => move.value === 'any' || row.move === move.value
  /** How far those had come that one's own acts took out of the list: an older look-up must not bring them back. */
  const gone = new Map<number, number>()
  let loading: Promise<void> | null = null
  let turn = 0

  const order = computed(() => chosen.value ?? orderOf(move.value))
  const asked = computed(() => ({ move: move.value, ...toApi(filters.value) }))
  const isFiltered = computed(() => Object.values(filters.value).some((v) => v?.length))
  const count = computed(() => counts.value?.moves.find((m) => m.move === move.value))
  const total = computed(() => counts.value?.moves.reduce((sum, m) => sum + m.total, 0))
  const length = computed(() =>
    Math.max((move.value === 'any' ? total.value : count.value?.total) ?? 0, rows.value.length),
  )
  /** How many stand between the beginning and the end that nobody has looked at yet. */
  const between = computed(() => (tail.value.length ? Math.max(1, length.value - rows.value.length) : 0))
  const lay = (part: Row[], after?: Row): Line<Row>[] =>
    counts.value && order.value === 'due'
      ? layOut(part, counts.value.edges, count.value, after)
      : part.map((row) => ({ row }))
  const lines = computed<Line<Row>[]>(() =>
    tail.value.length
      ? [...lay(head.value), { between: between.value }, ...lay(tail.value, head.value.at(-1))]
      : lay(head.value),
  )
  /** Where each row stands in the whole list. */
  const places = computed(
    () =>
      new Map(
        rows.value.map((row, n) => [row.id, n + 1 + (n < head.value.length ? 0 : length.value - rows.value.length)]),
      ),
  )
  /** Whether a row's place is in what is loaded. */
  const isInReach = (row: Row): boolean =>
    ended.value || !low || compare(row, low) <= 0 || (high !== undefined && compare(row, high) >= 0)
  /** Whether something that is not loaded lies between these. */
  function isAcross(one: number, other: number): boolean {
    const inTail = (id: number): boolean => tail.value.some((r) => r.id === id)
    return inTail(one) !== inTail(other)
  }

  const path = () => ({ workspace_id: workspaceId.value })

  async function fetchCounts(): Promise<void> {
    const turn = countsOrder.ask()
    const query = asked.value
    const found = await (takeFirst(workspaceId.value, 'counts', query) ??
      take(api.GET('/api/workspaces/{workspace_id}/counts', { params: { path: path(), query } })))
    // Opening a conversation makes the filters anew, with the same in them.
    if (JSON.stringify(query) === JSON.stringify(asked.value) && countsOrder.isNews(turn)) counts.value = found
  }

  const countAgain = (): Promise<void> => guard(fetchCounts)

  async function fetchPage(after: Row | undefined, backwards = false): Promise<Row[]> {
    const query = {
      ...asked.value,
      order: order.value,
      limit: PAGE,
      ...(after ? { after: cursorOf(after) } : {}),
      ...(backwards ? { backwards } : {}),
    }
    const page = await ((after || backwards ? null : takeFirst(workspaceId.value, 'page', query)) ??
      take(api.GET('/api/workspaces/{workspace_id}/conversations', { params: { path: path(), query } })))
    return page.rows
  }

  async function guard(work: () => Promise<void>): Promise<void> {
    try {
      await work()
      problem.value = null
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = error
    }
  }

  /** Start over at the top; what is shown stays until the new is there. */
  async function reload(): Promise<void> {
    const mine = ++turn
    await guard(async () => {
      const [first] = await Promise.all([fetchPage(undefined), fetchCounts()])
      if (mine !== turn) return
      head.value = first
      tail.value = []
      low = first.at(-1)
      high = undefined
      waiting.value = []
      ended.value = first.length < PAGE
      isFirst.value = false
    })
  }

  async function load(backwards: boolean): Promise<void> {
    const mine = turn
    await guard(async () => {
      const more = await fetchPage(backwards ? high : low, backwards)
      if (mine !== turn) return
      const known = new Set(rows.value.map((r) => r.id))
      const fresh = more.filter((r) => !known.has(r.id))
      if (backwards) {
        tail.value = [...fresh.reverse(), ...tail.value]
        high = more.at(-1) ?? high
      } else {
        head.value = [...head.value, ...fresh]
        low = more.at(-1) ?? low
      }
      if (more.length < PAGE || (low && high && compare(low, high) >= 0)) {
        ended.value = true
        head.value = rows.value
        tail.value = []
      }
    })
  }
  /** The next page, or with `backwards` the one before those of the end; one at a time. */
  async function loadMore(backwards = false): Promise<void> {
    if (loading || ended.value || isFirst.value) return
    loading = load(backwards)
    await loading
    loading = null
  }
  /** The end of the list, without what lies before it. */
  async function toEnd(): Promise<void> {
    while (loading) await loading
    if (high === undefined) await loadMore(true)
  }
  /** All that lies between the beginning and the end. */
  async function fill(): Promise<void> {
    const mine = turn
    while (between.value && !problem.value && mine === turn) await (loading ?? loadMore())
  }

  /** Some conversations have changed: update what is shown, let what is new wait. */
  async function refresh(ids: number[]): Promise<void> {
    const asked = ids.slice(0, MOST_IDS)
    await guard(async () => {
      const [page] = await Promise.all([
        take(
          api.GET('/api/workspaces/{workspace_id}/rows', {
            params: { path: path(), query: { ids: asked, order: order.value } },
          }),
        ),
        fetchCounts(),
      ])
      // What one does not see any more is there no more.
      const unseen = new Set(asked.filter((id) => !page.rows.some((r) => r.id === id)))
      if (unseen.size) {
        keep((r) => !unseen.has(r.id))
        waiting.value = waiting.value.filter((r) => !unseen.has(r.id))
      }
      for (const row of page.rows) {
        const part = [head, tail].find((one) => one.value.some((r) => r.id === row.id))
        const at = part?.value.findIndex((r) => r.id === row.id) ?? -1
        if (row.seq < (part?.value[at]?.seq ?? 0) || row.seq <= (gone.get(row.id) ?? -1)) continue
        waiting.value = waiting.value.filter((r) => r.id !== row.id)
        if (part) part.value = part.value.with(at, row)
        else if (move.value !== 'any' && stands(row) && !isFiltered.value && isInReach(row))
          waiting.value = [...waiting.value, row]
      }
      if (isFiltered.value && page.rows.some((r) => !rows.value.some((known) => known.id === r.id))) await findNew()
      // In an empty list there is no row under anybody's hand that could move.
      if (!rows.value.length && waiting.value.length) show()
    })
  }

  /** After a gap in the live connection: what is shown is brought up to date where it stands, what has come waits. */
  async function catchUp(): Promise<void> {
    const ids = [...rows.value, ...waiting.value].map((r) => r.id)
    if (!ids.length) return reload()
    for (let at = 0; at < ids.length; at += MOST_IDS) await refresh(ids.slice(at, at + MOST_IDS))
    await guard(async () => {
      const first = await fetchPage(undefined)
      const known = new Set([...rows.value, ...waiting.value].map((r) => r.id))
      waiting.value = [...waiting.value, ...first.filter((r) => !known.has(r.id))]
    })
  }

  /** Through filters only the server knows what belongs: whatever its first page has and this list has not, waits. */
  async function findNew(): Promise<void> {
    const known = new Set(rows.value.map((r) => r.id))
    waiting.value = (await fetchPage(undefined)).filter((r) => !known.has(r.id))
  }

  /** Every conversation that the filters let through, also beyond what is loaded. */
  async function fetchAims(): Promise<{ id: number; seq: number }[]> {
    const found = await take(
      api.GET('/api/workspaces/{workspace_id}/conversation-ids', { params: { path: path(), query: asked.value } }),
    )
    return found.ids.map((id, n) => ({ id, seq: found.seqs[n] ?? 0 }))
  }

  async function findAims(): Promise<{ id: number; seq: number }[] | null> {
    let found: { id: number; seq: number }[] | null = null
    await guard(async () => {
      found = await fetchAims()
    })
    return found
  }

  /** Bring in what waits and take out what has moved on; the first of the new, in the list's order. */
  function show(): number | undefined {
    const news = new Set(waiting.value.map((r) => r.id))
    const all = [...rows.value.filter(stands), ...waiting.value].filter(isInReach).sort(compare)
    const from = high
    head.value = from ? all.filter((r) => compare(r, from) < 0) : all
    tail.value = from ? all.filter((r) => compare(r, from) >= 0) : []
    waiting.value = []
    return rows.value.find((r) => news.has(r.id))?.id
  }

  /** One's own act moves this conversation on: it leaves the list at once. What comes back brings it back, where the act was refused. */
  function remove(id: number): () => void {
    const row = rows.value.find((r) => r.id === id)
    if (!row) return () => undefined
    const mine = turn
    gone.set(id, row.seq)
    keep((r) => r.id !== id)
    return () => {
      gone.delete(id)
      // A list that was asked for anew meanwhile has it where it belongs.
      if (mine !== turn || rows.value.some((r) => r.id === id)) return
      const part = high && compare(row, high) >= 0 ? tail : head
      const after = part.value.findIndex((r) => compare(r, row) > 0)
      part.value = part.value.toSpliced(after < 0 ? part.value.length : after, 0, row)
      void refresh([id])
    }
  }
  function keep(which: (row: Row) => boolean): void {
    head.value = head.value.filter(which)
    if (tail.value.length) tail.value = tail.value.filter(which)
  }

  watch(
    [workspaceId, () => JSON.stringify(asked.value), order],
    ([id], [before]) => {
      if (id !== before) counts.value = null
      isFirst.value = true
      ended.value = false
      void reload()
    },
    { immediate: true },
  )

  return {
    rows,
    lines,
    waiting,
    counts,
    count,
    order,
    isFirst,
    ended,
    problem,
    reload,
    catchUp,
    loadMore,
    toEnd,
    fill,
    isAcross,
    places,
    length,
    refresh,
    show,
    remove,
    total,
    countAgain,
    findAims,
    isFiltered,
  }
}
export type Queue = ReturnType<typeof useQueue>
