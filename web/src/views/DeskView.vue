<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Act, Move, ReplyMode } from '@/api/types'
import { useClock } from '@/composables/useClock'
import { useDirectory } from '@/composables/useDirectory'
import { useKeys } from '@/composables/useKeys'
import { useLive, type Notice } from '@/composables/useLive'
import Composer from '@/features/desk/Composer.vue'
import KeysSheet from '@/features/desk/KeysSheet.vue'
import MarginPane from '@/features/desk/MarginPane.vue'
import MoveTabs from '@/features/desk/MoveTabs.vue'
import QueueList from '@/features/desk/QueueList.vue'
import SheetHead from '@/features/desk/SheetHead.vue'
import SheetScript from '@/features/desk/SheetScript.vue'
import UndoLine from '@/features/desk/UndoLine.vue'
import { useActs } from '@/features/desk/useActs'
import { useComposer } from '@/features/desk/useComposer'
import { usePresence } from '@/features/desk/usePresence'
import { useQueue } from '@/features/desk/useQueue'
import { useSheet } from '@/features/desk/useSheet'
import FindPalette, { type Doable } from '@/features/find/FindPalette.vue'
import TopBand from '@/features/frame/TopBand.vue'
import { MOVES } from '@/lib/words'
import { useSession } from '@/stores/session'

const route = useRoute()
const router = useRouter()
const session = useSession()
const { refetchAccounts } = useDirectory()
const { now } = useClock(1000)

const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const me = computed(() => session.session?.member_id ?? 0)
const maySort = computed(() => session.may('sort'))
const isMove = (value: unknown): value is Move => MOVES.some(([key]) => key === value)
const move = computed<Move>(() => (isMove(route.query.move) ? route.query.move : 'unsorted'))
const openId = computed(() => ('conversation' in route.params && route.params.conversation ? Number(route.params.conversation) : null))

const queue = useQueue(workspaceId, move)
const state = useSheet(workspaceId, openId)
const acts = useActs(workspaceId, (id) => void state.refetch().then(() => queue.refresh([id])))
const composer = useComposer(workspaceId, state, acts, maySort)
const hereId = ref<number | null>(null)
watch(openId, (id) => (hereId.value = id), { immediate: true })
const presence = usePresence(workspaceId, me, hereId, composer.isWriting)

const isFinding = ref(false)
const isShowingKeys = ref(false)
const isMarginOpen = ref(false)
const refused = ref<number | null>(null)
const head = ref<InstanceType<typeof SheetHead> | null>(null)
const list = ref<InstanceType<typeof QueueList> | null>(null)
const pen = ref<InstanceType<typeof Composer> | null>(null)

const { connected } = useLive(workspaceId, onNotice)
let isFirstHello = true
function onNotice(notice: Notice): void {
  presence.onNotice(notice)
  if (notice.kind === 'conversations' && notice.ids) {
    void queue.refresh(notice.ids)
    if (openId.value !== null && notice.ids.includes(openId.value)) void state.refetch()
  } else if (notice.kind === 'refused' && notice.member === me.value) {
    refused.value = notice.ids?.[0] ?? null
  } else if (notice.kind === 'accounts') {
    void refetchAccounts()
  } else if (notice.kind === 'everything' || (notice.kind === 'hello' && !isFirstHello)) {
    void queue.reload()
    void state.refetch()
    void presence.load()
  }
  if (notice.kind === 'hello') isFirstHello = false
}

function go(id: number | null, to: Move = move.value): void {
  const params = { workspace: String(workspaceId.value), ...(id === null ? {} : { conversation: String(id) }) }
  void router.push({ name: 'desk', params, query: { move: to } })
}
/** A shared address names only the conversation: the list beside it is the one it stands in. */
watch(
  () => state.sheet.value?.conversation,
  (c) => {
    if (c && c.id === openId.value && !isMove(route.query.move)) void router.replace({ ...route, query: { move: c.move } })
  },
)

function walk(step: number): void {
  const rows = queue.rows.value
  const at = rows.findIndex((r) => r.id === openId.value)
  const next = rows[at < 0 ? 0 : Math.min(rows.length - 1, Math.max(0, at + step))]
  if (next) go(next.id)
}
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
  if (body.act === 'settle') return 'settled'
  const isSorted = body.act === 'keep' || (body.act === 'assign' && body.owner_id !== me.value)
  return isSorted && move.value === 'unsorted' ? 'our_move' : undefined
}
async function act(body: Act, words: string): Promise<void> {
  const id = openId.value
  if (id === null || !(await acts.act(id, body, words))) return
  const to = whereTo(body)
  if (to && to !== move.value) finish(id)
}
function onSent(settled: boolean, mode: ReplyMode): void {
  const id = openId.value
  if (id === null || mode === 'note') return
  void queue.fetchCounts()
  if (move.value !== 'their_move' || settled) finish(id)
  if (openId.value === id) void state.refetch()
}
async function undo(): Promise<void> {
  const back = await acts.undo()
  if (!back) return
  if (openId.value !== back.conversation) go(back.conversation)
  await queue.reload()
  if (back.text !== null) {
    const words = back.text
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
}
useKeys({
  ...sheetKeys,
  ArrowDown: () => walk(1),
  ArrowUp: () => walk(-1),
  s: () => void list.value?.show(),
  z: () => void undo(),
  '?': () => (isShowingKeys.value = true),
  Escape: () => openId.value !== null && go(null),
  'ctrl+k': () => (isFinding.value = true),
  ...Object.fromEntries(MOVES.map(([key], n) => [`shift+${n + 1}`, () => pickMove(key)])),
})

const doables = computed<Doable[]>(() => {
  const params = { workspace: String(workspaceId.value) }
  const list: Doable[] = MOVES.map(([key, word], n) => ({ words: `Desk: ${word}`, key: `Shift ${n + 1}`, run: () => pickMove(key) }))
  list.push({ words: 'Setup: accounts and what was kept aside', run: () => void router.push({ name: 'setup', params }) })
  for (const w of session.session?.workspaces ?? [])
    if (w.id !== workspaceId.value) list.push({ words: `Workspace: ${w.name}`, run: () => void router.push({ name: 'desk', params: { workspace: String(w.id) } }) })
  if (state.sheet.value && maySort.value)
    list.push(
      { words: 'Take it', key: 'T', run: sheetKeys.t },
      { words: 'Give it to a colleague', key: 'G', run: sheetKeys.g },
      { words: 'Set the priority', key: 'U', run: sheetKeys.u },
      { words: 'Keep it as our move', key: 'K', run: sheetKeys.k },
      { words: 'Park it', key: 'P', run: sheetKeys.p },
      { words: 'Settle it', key: 'E', run: sheetKeys.e },
      { words: 'Reply publicly', key: 'R', run: sheetKeys.r },
      { words: 'Write privately', key: 'D', run: sheetKeys.d },
      { words: 'Write a team note', key: 'N', run: sheetKeys.n },
    )
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
    <main class="grid min-h-0 flex-1 grid-cols-1 md:grid-cols-[minmax(340px,404px)_minmax(0,1fr)]">
      <section class="min-h-0 flex-col border-r border-rule" :class="openId === null ? 'flex' : 'hidden md:flex'" aria-label="Queue">
        <MoveTabs :counts="queue.counts.value" :move="move" @pick="pickMove" />
        <QueueList ref="list" :queue="queue" :move="move" :open-id="openId" :now="now" :others="presence.others.value" @open="go" />
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
          <SheetScript :sheet="state.sheet.value" :zone="zone" :now="now" :seen-seq="state.seenSeq.value" :is-holding="state.isHolding.value" @again="composer.restore" />
          <Composer ref="pen" :composer="composer" :may-sort="maySort" :person-name="state.sheet.value.conversation.person_name" @sent="onSent" />
        </div>
        <div class="min-h-0 flex-col" :class="isMarginOpen ? 'flex' : 'hidden xl:flex'">
          <button type="button" class="border-b border-rule-soft px-5 py-1 text-left text-[13px] font-semibold text-pine underline xl:hidden" @click="isMarginOpen = false">Back to the conversation</button>
          <MarginPane :sheet="state.sheet.value" :zone="zone" :now="now" @open="(id) => go(id)" />
        </div>
      </section>
      <section v-else class="hidden place-items-center bg-sheet p-8 text-center text-ink-2 md:grid" aria-label="Conversation">
        <p v-if="state.problem.value" role="alert">{{ state.problem.value.message }}</p>
        <p v-else>Choose a conversation, or press <kbd class="font-semibold">↓</kbd> for the first. <kbd class="font-semibold">?</kbd> shows all keys.</p>
      </section>
    </main>
    <UndoLine :acts="acts" @undo="undo" />
    <KeysSheet :open="isShowingKeys" @close="isShowingKeys = false" />
    <FindPalette v-if="isFinding" :workspace-id="workspaceId" :doables="doables" @close="isFinding = false" @open="(id) => void router.push({ name: 'desk', params: { workspace: String(workspaceId), conversation: String(id) } })" />
  </div>
</template>
