<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useQueryCache } from '@pinia/colada'
import type { Act, Desk, Message, Move, ReplyMode, View } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import { useClock } from '@/composables/useClock'
import { useDirectory } from '@/composables/useDirectory'
import { useKeys } from '@/composables/useKeys'
import { useLive, type Notice } from '@/composables/useLive'
import BulkBar from '@/features/desk/BulkBar.vue'
import AdviceDialog from '@/features/advice/AdviceDialog.vue'
import HandOverDialog from '@/features/cases/HandOverDialog.vue'
import Composer from '@/features/desk/Composer.vue'
import CorrectDialog from '@/features/desk/CorrectDialog.vue'
import FilterBar from '@/features/desk/FilterBar.vue'
import GiveDialog from '@/features/desk/GiveDialog.vue'
import HorizonStrip from '@/features/desk/HorizonStrip.vue'
import KeysSheet from '@/features/desk/KeysSheet.vue'
import MarginPane from '@/features/desk/MarginPane.vue'
import MoveTabs from '@/features/desk/MoveTabs.vue'
import NameDialog from '@/components/ui/NameDialog.vue'
import QueueList from '@/features/desk/QueueList.vue'
import SheetHead from '@/features/desk/SheetHead.vue'
import SheetScript from '@/features/desk/SheetScript.vue'
import ThreadDialog from '@/features/desk/ThreadDialog.vue'
import UndoLine from '@/features/desk/UndoLine.vue'
import { useActs } from '@/features/desk/useActs'
import { useComposer } from '@/features/desk/useComposer'
import { useOutsideActs } from '@/features/desk/useOutsideActs'
import { usePresence } from '@/features/desk/usePresence'
import { useQueue } from '@/features/desk/useQueue'
import { useSelection } from '@/features/desk/useSelection'
import { useSheet } from '@/features/desk/useSheet'
import { useViews } from '@/features/desk/useViews'
import FindPalette, { type Doable } from '@/features/find/FindPalette.vue'
import { usePlaces } from '@/features/find/usePlaces'
import TopBand from '@/features/frame/TopBand.vue'
import { readFilters, readOrder, type Filters, type Order } from '@/lib/filters'
import { MOVES } from '@/lib/words'
import { useSession } from '@/stores/session'

const route = useRoute()
const router = useRouter()
const session = useSession()
const { members, directory, refetchAccounts, refetchDirectory } = useDirectory()
const { now } = useClock()

const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const me = computed(() => session.session?.member_id ?? 0)
const maySort = computed(() => session.may('sort'))
const isMove = (value: unknown): value is Move => MOVES.some(([key]) => key === value)
const move = computed<Move>(() => (isMove(route.query.move) ? route.query.move : 'unsorted'))
const openId = computed(() => ('conversation' in route.params && route.params.conversation ? Number(route.params.conversation) : null))

const filters = computed<Filters>(() => readFilters(route.query))
const queue = useQueue(workspaceId, move, filters, computed(() => readOrder(route.query)))
const chosen = useSelection(queue.rows, openId, () => JSON.stringify([move.value, filters.value]))
const saved = useViews(workspaceId)
const state = useSheet(workspaceId, openId)
/** One's own act shows at once on the sheet; the list hears of it by the notice that everybody gets. */
const acts = useActs(workspaceId, (id, body) => {
  if (!body || !isDoneWith(body)) void state.refetch()
  if (!connected.value) void queue.refresh([id])
})
const composer = useComposer(workspaceId, state, acts, maySort)
const hereId = ref<number | null>(null)
watch(openId, (id) => (hereId.value = id), { immediate: true })
const presence = usePresence(workspaceId, me, hereId, composer.isWriting)

const isFinding = ref(false)
const isShowingKeys = ref(false)
const isMarginOpen = ref(false)
const refused = ref<number | null>(null)
const isSeeingThread = ref(false)
const correcting = ref<Message | null>(null)
const naming = ref<'view' | 'tag' | null>(null)
const isGivingAll = ref(false)
const handingAll = ref<Desk | null>(null)
const cache = useQueryCache()
const bar = ref<InstanceType<typeof FilterBar> | null>(null)
const head = ref<InstanceType<typeof SheetHead> | null>(null)
const list = ref<InstanceType<typeof QueueList> | null>(null)
const strip = ref<InstanceType<typeof HorizonStrip> | null>(null)
const pen = ref<InstanceType<typeof Composer> | null>(null)

const { connected } = useLive(workspaceId, onNotice)
function onNotice(notice: Notice): void {
  presence.onNotice(notice)
  if (notice.kind === 'conversations' || notice.kind === 'everything') strip.value?.soon()
  if (!['conversations', 'presence', 'reaction', 'draft'].includes(notice.kind)) state.forget()
  if (notice.kind === 'conversations' && notice.ids) {
    notice.ids.forEach(state.forget)
    state.lookAhead(neighbours.value)
    void queue.refresh(notice.ids)
    if (openId.value !== null && notice.ids.includes(openId.value)) void state.refetch()
  } else if (notice.kind === 'refused' && notice.member === me.value) {
    refused.value = notice.ids?.[0] ?? null
  } else if (notice.kind === 'accounts') {
    void refetchAccounts()
  } else if (notice.kind === 'approvals' || (notice.kind === 'draft' && notice.member !== me.value && notice.ids?.includes(openId.value ?? 0))) {
    void state.refetch()
  } else if (notice.kind === 'cases') {
    void cache.invalidateQueries({ key: ['cases', workspaceId.value] })
  } else if (notice.kind === 'everything') {
    void cache.invalidateQueries({ key: ['cases', workspaceId.value] })
    void queue.catchUp()
    void state.refetch()
    void presence.load()
  }
}

function go(id: number | null, to: Move = move.value): void {
  const params = { workspace: String(workspaceId.value), ...(id === null ? {} : { conversation: String(id) }) }
  void router.push({ name: 'desk', params, query: { ...(to === move.value ? route.query : {}), move: to } })
}
function setFilters(next: Filters, order: Order | undefined = readOrder(route.query)): void {
  const set = Object.fromEntries(Object.entries(next).filter(([, values]) => values?.length)) as Record<string, string[]>
  void router.replace({ name: 'desk', params: { workspace: String(workspaceId.value), ...(openId.value === null ? {} : { conversation: String(openId.value) }) }, query: { move: move.value, ...(order ? { order } : {}), ...set } })
}
function openView(view: View): void {
  void router.push({ name: 'desk', params: { workspace: String(workspaceId.value) }, query: view.query as Record<string, string | string[]> })
}
function keepName(name: string, _on: boolean, shared: boolean): void {
  const what = naming.value
  naming.value = null
  if (what === 'tag') void actOnAll({ act: 'tag', name, on: true, person: false }, `tagged ${name}`)
  else void saved.save(name, shared, Object.fromEntries(Object.entries({ move: move.value, ...route.query }).filter(([, v]) => v !== null)) as Record<string, string | string[]>)
}
/** A shared address names only the conversation: the list beside it is the one it stands in. */
watch(
  [() => state.sheet.value?.conversation, () => route.query.move],
  ([c]) => {
    if (c && c.id === openId.value && !isMove(route.query.move)) void router.replace({ ...route, query: { move: c.move } })
  },
)

function walk(step: number): void {
  const rows = queue.rows.value
  const at = rows.findIndex((r) => r.id === openId.value)
  const next = rows[at < 0 ? 0 : Math.min(rows.length - 1, Math.max(0, at + step))]
  if (next) go(next.id)
}
/** What one more key opens: the next two and the one before. */
const neighbours = computed(() => {
  const rows = queue.rows.value
  const at = rows.findIndex((r) => r.id === openId.value)
  return [at + 1, at + 2, ...(at > 0 ? [at - 1] : [])].flatMap((n) => rows[n]?.id ?? [])
})
watch(() => [openId.value, ...neighbours.value].join(), () => state.lookAhead(neighbours.value))
/** After an act that finishes a conversation the next one opens. */
function finish(id: number): void {
  const rows = queue.rows.value
  const at = rows.findIndex((r) => r.id === id)
  if (at < 0) return
  const next = rows[at + 1] ?? rows[at - 1]
  queue.remove(id)
  go(next?.id ?? null)
}
/** Where an act sends a conversation so that one is done with it here; undefined: one stays with it. */
function whereTo(body: Act): Move | undefined {
  if (body.act === 'park') return 'parked'
  if (body.act === 'settle' || body.act === 'hand_over') return 'settled'
  if (body.act === 'reopen') return 'our_move'
  const isSorted = body.act === 'keep' || (body.act === 'assign' && body.owner_id !== me.value)
  return isSorted && move.value === 'unsorted' ? 'our_move' : undefined
}
const isDoneWith = (body: Act): boolean => ![undefined, move.value].includes(whereTo(body))
async function act(body: Act, words: string): Promise<void> {
  const id = openId.value
  if (id === null || !(await acts.act(id, body, words))) return
  if (isDoneWith(body)) finish(id)
}
async function actOnAll(body: Act, words: string): Promise<void> {
  isGivingAll.value = false
  handingAll.value = null
  const done = await acts.actOnMany(chosen.ids.value, body, words)
  chosen.clear()
  await Promise.all([queue.reload(), state.refetch(), refetchDirectory()])
  if (openId.value !== null && done.includes(openId.value) && !queue.rows.value.some((r) => r.id === openId.value)) go(queue.rows.value[0]?.id ?? null)
}
async function selectAll(): Promise<void> {
  chosen.set(await queue.fetchIds())
}
const busyOnes = computed(() => chosen.ids.value.filter((id) => presence.others.value.has(id)).length)
const { asking, lastOfTheirs, moderate, moderateLast, block, translate, openOutside } = useOutsideActs(state, acts, computed(() => session.may('moderate')))
async function correct(field: 'sentiment' | 'reads_as' | 'language', value: string | null, words: string): Promise<void> {
  const message = correcting.value
  correcting.value = null
  if (message) await act({ act: 'correct', message_id: message.id, field, value }, words)
}
function extend(step: number): void {
  const rows = queue.rows.value
  const at = rows.findIndex((r) => r.id === openId.value)
  if (openId.value !== null) chosen.extendTo(openId.value)
  const next = rows[at + step]
  if (next) {
    chosen.extendTo(next.id)
    go(next.id)
  }
}

function onSent(settled: boolean, mode: ReplyMode): void {
  const id = openId.value
  if (id === null || mode === 'note') return
  void queue.fetchCounts()
  if (move.value !== 'their_move' || settled) finish(id)
  if (openId.value === id) void state.refetch()
}
const isAsking = ref(false)
function onAsked(seq: number, name: string): void {
  isAsking.value = false
  if (openId.value === null) return
  acts.remember({ conversation: openId.value, seq, words: `Asked ${name} by mail` })
  void state.refetch()
}
async function undo(): Promise<void> {
  const back = await acts.undo()
  if (!back) return
  void refetchDirectory()
  if (openId.value !== back.conversation) go(back.conversation)
  await queue.reload()
  if (back.back !== null) {
    const words = back.back
    const stop = watch(
      () => state.sheet.value?.conversation.id,
      (id) => {
        if (id !== back.conversation) return
        setTimeout(() => composer.restore(words))
        setTimeout(() => stop())
      },
      { immediate: true },
    )
  }
}
function pickMove(to: Move): void {
  go(null, to)
}

const withSheet = (run: () => void) => () => {
  if (state.sheet.value && maySort.value) run()
}
const writeIn = (mode: ReplyMode) => withSheet(() => void pen.value?.choose(mode))
const sheetKeys = {
  t: withSheet(() => head.value?.take()),
  g: withSheet(() => head.value?.give()),
  u: withSheet(() => head.value?.prioritise()),
  k: withSheet(() => head.value?.keep()),
  p: withSheet(() => head.value?.park()),
  e: withSheet(() => head.value?.settle()),
  r: writeIn('public'),
  d: writeIn('private'),
  n: writeIn('note'),
  'shift+n': withSheet(() => (isAsking.value = directory.value?.can_ask === true)),
  // Several are tagged whether or not one of them is open yet.
  m: () => (chosen.ids.value.length && maySort.value ? void (naming.value = 'tag') : withSheet(() => head.value?.tag())()),
  b: withSheet(() => head.value?.tagPerson()),
  w: withSheet(() => head.value?.watch()),
  c: withSheet(() => (correcting.value = lastOfTheirs.value ?? null)),
  y: withSheet(() => head.value?.settleAs('no_reply_needed')),
  j: withSheet(() => head.value?.settleAs('junk')),
  i: withSheet(() => moderateLast('like', 'unlike')),
  h: withSheet(() => moderateLast('hide', 'show')),
  a: withSheet(() => moderateLast('repost')),
  Delete: withSheet(() => moderateLast('delete')),
  'shift+Delete': withSheet(() => state.sheet.value?.can_block && session.may('moderate') && block()),
}
useKeys({
  ...sheetKeys,
  ArrowDown: () => walk(1),
  ArrowUp: () => walk(-1),
  'shift+ArrowDown': () => extend(1),
  'shift+ArrowUp': () => extend(-1),
  x: () => chosen.toggle(openId.value),
  'ctrl+a': () => void selectAll(),
  f: () => bar.value?.open(),
  v: () => bar.value?.openViews(),
  o: openOutside,
  q: () => void translate(lastOfTheirs.value),
  l: () => (isSeeingThread.value = state.sheet.value?.post != null),
  s: () => void list.value?.show(),
  z: () => void undo(),
  '?': () => (isShowingKeys.value = true),
  Escape: () => (chosen.ids.value.length ? chosen.clear() : openId.value !== null && go(null)),
  'ctrl+k': () => (isFinding.value = true),
  ...Object.fromEntries(MOVES.map(([key], n) => [`shift+${n + 1}`, () => pickMove(key)])),
})

const places = usePlaces(pickMove)
const doables = computed<Doable[]>(() => {
  const list: Doable[] = [...places.value]
  if (state.sheet.value && maySort.value)
    list.push(
      { words: 'Take it', key: 'T', run: sheetKeys.t },
      { words: 'Give it to a colleague', key: 'G', run: sheetKeys.g },
      { words: 'Set the priority', key: 'U', run: sheetKeys.u },
      { words: 'Keep it as our move', key: 'K', run: sheetKeys.k },
      { words: 'Tag the conversation', key: 'M', run: sheetKeys.m },
      { words: 'Tag the person', key: 'B', run: sheetKeys.b },
      { words: 'Watch it', key: 'W', run: sheetKeys.w },
      { words: 'Correct the reading', key: 'C', run: sheetKeys.c },
      { words: 'Settle: no reply needed', key: 'Y', run: sheetKeys.y },
      { words: 'Settle as junk', key: 'J', run: sheetKeys.j },
      { words: 'Like on the network', key: 'I', run: sheetKeys.i },
      { words: 'Hide on the network', key: 'H', run: sheetKeys.h },
      ...(state.sheet.value.can_block ? [{ words: state.sheet.value.person.blocked ? 'Unblock the person' : 'Block the person', key: 'Shift Del', run: sheetKeys['shift+Delete'] }] : []),
      { words: 'Park it', key: 'P', run: sheetKeys.p },
      { words: 'Settle it', key: 'E', run: sheetKeys.e },
      { words: 'Reply publicly', key: 'R', run: sheetKeys.r },
      { words: 'Write privately', key: 'D', run: sheetKeys.d },
      { words: 'Write a team note', key: 'N', run: sheetKeys.n },
      ...(directory.value?.can_ask ? [{ words: 'Ask somebody outside, by mail', key: 'Shift N', run: sheetKeys['shift+n'] }] : []),
    )
  for (const v of saved.views.value ?? []) list.push({ words: `View: ${v.name}`, run: () => openView(v) })
  list.push({ words: 'Show the keys', key: '?', run: () => (isShowingKeys.value = true) })
  list.push({ words: 'Sign out', run: () => void session.signOut().then(() => router.push({ name: 'sign-in' })) })
  return list
})
</script>

<template>
  <div class="flex h-full flex-col">
    <TopBand :connected="connected" @find="isFinding = true" />
    <p v-if="refused !== null" role="alert" class="flex items-center gap-3 bg-brick-wash px-4 py-1.5 text-[13px] text-brick">
      The network refused a reply of yours. The conversation is our move again, with its old due.
      <button type="button" class="font-semibold underline" @click="go(refused, 'our_move'), (refused = null)">Open it</button>
      <button type="button" class="ml-auto underline" @click="refused = null">Close</button>
    </p>
    <HorizonStrip ref="strip" :workspace-id="workspaceId" :zone="zone" :from="filters.due_from?.[0]" :until="filters.due_until?.[0]" :is-late="filters.band?.[0] === 'late'" @select="(from, until) => setFilters({ ...filters, band: [], due_from: [from], due_until: [until] }, 'due')" @late="setFilters({ ...filters, due_from: [], due_until: [], band: filters.band?.[0] === 'late' ? [] : ['late'] }, 'due')" @clear="setFilters({ ...filters, due_from: [], due_until: [] })" />
    <main class="grid min-h-0 flex-1 grid-cols-1 md:grid-cols-[minmax(340px,404px)_minmax(0,1fr)]">
      <section class="min-h-0 flex-col border-r border-rule" :class="openId === null ? 'flex' : 'hidden md:flex'" aria-label="Queue">
        <MoveTabs :counts="queue.counts.value" :move="move" @pick="pickMove" />
        <FilterBar
          ref="bar"
          :me="me"
          :filters="filters"
          :order="queue.order.value"
          :counts="queue.counts.value"
          :move="move"
          :views="saved.views.value ?? []"
          :person-name="queue.rows.value[0]?.person_name"
          @set="(f) => setFilters(f)"
          @order="(o) => setFilters(filters, o)"
          @view="openView"
          @save="naming = 'view'"
          @forget="(v) => void saved.forget(v)"
        />
        <BulkBar
          v-if="maySort && (chosen.ids.value.length || acts.progress.value)"
          :count="chosen.ids.value.length"
          :total="queue.count.value?.total"
          :busy-ones="busyOnes"
          :progress="acts.progress.value"
          :me="me"
          @act="actOnAll"
          @tag="naming = 'tag'"
          :desks="directory?.desks ?? []"
          @give="isGivingAll = true"
          @hand="(d) => (handingAll = d)"
          @all="selectAll"
          @clear="chosen.clear()"
        />
        <QueueList ref="list" :queue="queue" :move="move" :open-id="openId" :selected="chosen.selected.value" :now="now" :others="presence.others.value" @open="go" @select="(id, isRange) => (isRange ? chosen.extendTo(id) : chosen.toggle(id))" />
      </section>
      <section
        v-if="state.sheet.value && openId !== null"
        class="grid min-h-0 min-w-0 grid-cols-1 bg-sheet xl:grid-cols-[minmax(0,1fr)_264px]"
        aria-label="Conversation"
      >
        <div class="min-h-0 min-w-0 flex-col border-r border-rule-soft" :class="isMarginOpen ? 'hidden xl:flex' : 'flex'">
          <div class="flex shrink-0 gap-3 border-b border-rule-soft px-5 py-1 text-[13px] xl:hidden">
            <button type="button" class="font-semibold text-pine underline md:hidden" @click="go(null)">Queue</button>
            <button type="button" class="ml-auto font-semibold text-pine underline" @click="isMarginOpen = true">Margin</button>
          </div>
          <SheetHead ref="head" :sheet="state.sheet.value" :zone="zone" :now="now" :me="me" :may-sort="maySort" :present="presence.others.value.get(openId) ?? []" @act="act" />
          <SheetScript :sheet="state.sheet.value" :zone="zone" :seen-seq="state.seenSeq.value" :is-holding="state.isHolding.value" :may-sort="maySort" :may-moderate="session.may('moderate')" @again="composer.restore" @thread="isSeeingThread = true" @moderate="moderate" @correct="(m) => (correcting = m)" @translate="translate" />
          <Composer ref="pen" :composer="composer" :workspace-id="workspaceId" :sheet="state.sheet.value" :may-sort="maySort" :person-name="state.sheet.value.conversation.person_name" :can-translate="directory?.can_translate ?? false" :zone="zone" :me="me" @sent="onSent" />
        </div>
        <div class="min-h-0 flex-col" :class="isMarginOpen ? 'flex' : 'hidden xl:flex'">
          <button type="button" class="border-b border-rule-soft px-5 py-1 text-left text-[13px] font-semibold text-pine underline xl:hidden" @click="isMarginOpen = false">Back to the conversation</button>
          <MarginPane :workspace-id="workspaceId" :sheet="state.sheet.value" :zone="zone" :now="now" :may-moderate="session.may('moderate')" :may-sort="maySort" :me="me" @open="(id) => go(id)" @block="block" @again="composer.restore" @ask="isAsking = true" />
        </div>
      </section>
      <section v-else class="hidden place-items-center bg-sheet p-8 text-center text-ink-2 md:grid" aria-label="Conversation">
        <p v-if="state.problem.value" role="alert">{{ state.problem.value.message }}</p>
        <p v-else>Choose a conversation, or press <kbd class="font-semibold">↓</kbd> for the first. <kbd class="font-semibold">?</kbd> shows all keys.</p>
      </section>
    </main>
    <AdviceDialog v-if="isAsking && state.sheet.value" :workspace-id="workspaceId" :conversation="state.sheet.value.conversation.id" :person="state.sheet.value.conversation.person_name" @close="isAsking = false" @asked="onAsked" />
    <UndoLine :acts="acts" @undo="undo" />
    <ThreadDialog
      v-if="isSeeingThread && state.sheet.value?.post"
      :workspace-id="workspaceId"
      :post-id="state.sheet.value.post.id"
      :person-id="state.sheet.value.conversation.person_id"
      :zone="zone"
      :may-draw="session.may('draw_prizes')"
      @close="isSeeingThread = false"
      @open="(id) => ((isSeeingThread = false), go(id))"
    />
    <CorrectDialog v-if="correcting" :message="correcting" @close="correcting = null" @correct="correct" />
    <NameDialog
      v-if="naming"
      :title="naming === 'view' ? 'Keep this as a view' : `Tag ${chosen.ids.value.length} conversations`"
      :label="naming === 'view' ? 'Its name' : 'A tag there is, or a new one'"
      :known="naming === 'view' ? [] : (directory?.tags ?? []).map((t) => t.name)"
      :on="[]"
      :share="naming === 'view' && maySort"
      :button="naming === 'view' ? 'Keep' : 'Tag'"
      @close="naming = null"
      @name="keepName"
    />
    <HandOverDialog v-if="handingAll" :desk="handingAll" :count="chosen.ids.value.length" @close="handingAll = null" @hand="(note) => actOnAll({ act: 'hand_over', desk_id: handingAll?.id ?? 0, note: note || null }, `handed over to ${handingAll?.name}`)" />
    <GiveDialog v-if="isGivingAll" :members="members ?? []" :teams="directory?.teams ?? []" :owner="null" :team="null" @close="isGivingAll = false" @give="(to, team, note) => actOnAll({ act: 'assign', owner_id: to, team_id: team, note: note || null }, 'given')" />
    <AppDialog v-if="asking" open :title="asking.title" @close="asking = null">
      <p>{{ asking.words }}</p>
      <div class="mt-3 flex justify-end gap-2">
        <button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="asking = null">Leave it</button>
        <button type="button" class="rounded bg-brick px-3 py-1.5 font-bold text-sheet" data-test="confirm" @click="asking.run()">{{ asking.button }}</button>
      </div>
    </AppDialog>
    <KeysSheet :open="isShowingKeys" @close="isShowingKeys = false" />
    <FindPalette v-if="isFinding" :workspace-id="workspaceId" :doables="doables" @close="isFinding = false" @open="(id) => void router.push({ name: 'desk', params: { workspace: String(workspaceId), conversation: String(id) } })" />
  </div>
</template>
