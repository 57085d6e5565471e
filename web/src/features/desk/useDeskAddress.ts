/** What the desk's address says (move, open conversation, filters, order) and the ways to change it. */
import { computed, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Move, Standing, View } from '@/api/types'
import { isMove, readAddress, readMove, readOrder, type Filters, type Order } from '@/lib/filters'

type Query = Record<string, string | string[]>

export function useDeskAddress(workspaceId: Ref<number>) {
  const route = useRoute()
  const router = useRouter()
  /** A shared address names only the conversation. */
  const saysMove = computed(() => isMove(route.query.move) || Boolean(route.query.report ?? route.query.rule))
  const move = computed<Standing>(() => readMove(route.query))
  const openId = computed(() =>
    'conversation' in route.params && route.params.conversation ? Number(route.params.conversation) : null,
  )
  const read = computed(() => readAddress(route.query))
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

  /** Open a conversation, or none; the filters stay within a move, what is looked for or counted in a report over all of them. */
  function go(id: number | null, to: Standing = move.value): void {
    const { report, rule, words } = route.query
    const query =
      to === move.value || to === 'any' || move.value === 'any'
        ? route.query
        : { ...(report ? { report } : {}), ...(rule ? { rule } : {}), ...(words ? { words } : {}) }
    void router.push({ name: 'desk', params: paramsOf(id), query: { ...query, move: to } })
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
