/** What the desk's address says (move, open conversation, filters, order) and the ways to change it. */
import { computed, onScopeDispose, shallowRef, watch, type Ref } from 'vue'
import { useRoute, useRouter, type LocationQuery } from 'vue-router'
import type { Move, Standing, View } from '@/api/types'
import { afterPaint } from '@/lib/afterPaint'
import { keepSame } from '@/lib/keepSame'
import { isMove, readAddress, readMove, readOrder, type Filters, type Order } from '@/lib/filters'

type Query = Record<string, string | string[]>

export function useDeskAddress(workspaceId: Ref<number>) {
  const route = useRoute()
  const router = useRouter()
  /** A shared address names only the conversation. */
  const saysMove = computed(() => isMove(route.query.move) || Boolean(route.query.report ?? route.query.rule))
  const move = computed<Standing>(() => readMove(route.query))
  /** What was opened within this list and does not stand in the address yet. */
  const opened = shallowRef<{ id: number | null }>()
  const openId = computed(() => {
    if (opened.value) return opened.value.id
    return 'conversation' in route.params && route.params.conversation ? Number(route.params.conversation) : null
  })
  /** Walking makes the address anew, and with it all it says: what says the same is the same. */
  const read = computed<ReturnType<typeof readAddress>>((had) => keepSame(had, readAddress(route.query)))
  const filters = computed<Filters>(() => read.value.filters)
  /** What the address asks for that nobody can read. */
  const unread = computed(() => read.value.unread)
  const order = computed(() => readOrder(route.query))
  /** All that a saved view keeps. */
  const query = computed(
    () =>
      Object.fromEntries(Object.entries({ move: move.value, ...route.query }).filter(([, v]) => v !== null)) as Query,
  )

  const paramsOf = (id: number | null) => ({
    workspace: String(workspaceId.value),
    ...(id === null ? {} : { conversation: String(id) }),
  })

  /**
   * Open at once, and have the address say so once it is painted: the router has more to do than the sheet. Of what is opened in
   * between only the last gets into the address; whoever goes somewhere else meanwhile goes there.
   */
  function openFirst(id: number | null, query: LocationQuery): void {
    const mine = { id }
    opened.value = unsaid = mine
    afterPaint(() => {
      if (unsaid === mine) void router.push({ name: 'desk', params: paramsOf(id), query })
    })
  }
  let unsaid: { id: number | null } | undefined
  // Also where one is going to may take its time to come.
  onScopeDispose(router.beforeEach(() => void (unsaid = undefined)))
  watch(
    () => route.fullPath,
    () => (opened.value = undefined),
    { flush: 'sync' },
  )

  /** Open a conversation, or none; the filters stay within a move, what is looked for or counted in a report over all of them. */
  function go(id: number | null, to: Standing = move.value): void {
    const { report, rule, words } = route.query
    const query =
      to === move.value || to === 'any' || move.value === 'any'
        ? route.query
        : { ...(report ? { report } : {}), ...(rule ? { rule } : {}), ...(words ? { words } : {}) }
    if (to === move.value && saysMove.value) openFirst(id, { ...query, move: to })
    else void router.push({ name: 'desk', params: paramsOf(id), query: { ...query, move: to } })
  }
  /** Open a conversation wherever it stands. */
  function goTo(id: number): void {
    void router.push({ name: 'desk', params: paramsOf(id) })
  }
  /** Put the move of a conversation that was opened without one into the address. */
  function setMove(to: Move): void {
    void router.replace({ ...route, query: { move: to } })
  }
  function setFilters(next: Filters, by: Order | undefined = order.value): void {
    const set = Object.fromEntries(Object.entries(next).filter(([, values]) => values?.length)) as Query
    void router.replace({
      name: 'desk',
      params: paramsOf(openId.value),
      query: { move: move.value, ...(by ? { order: by } : {}), ...set },
    })
  }
  function openView(view: { query: View['query'] }): void {
    void router.push({ name: 'desk', params: paramsOf(null), query: view.query as Query })
  }
  return { saysMove, move, openId, filters, unread, order, query, go, goTo, setMove, setFilters, openView }
}
export type DeskAddress = ReturnType<typeof useDeskAddress>
