<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useQueryCache } from '@pinia/colada'
import type { Message, ReplyMode } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { useKeyRouter, useKeys } from '@/composables/useKeys'
import { isShown, useLive, type Notice } from '@/composables/useLive'
import FailedBox from '@/components/ui/FailedBox.vue'
import BulkBar from '@/features/desk/BulkBar.vue'
import BulkDialogs from '@/features/desk/BulkDialogs.vue'
import FirstVisit from '@/features/help/FirstVisit.vue'
import FilterBar from '@/features/desk/FilterBar.vue'
import HorizonStrip from '@/features/desk/HorizonStrip.vue'
import MoveTabs from '@/features/desk/MoveTabs.vue'
import QueueList from '@/features/desk/QueueList.vue'
import {
  AdviceDialog,
  AskFirst,
  CorrectDialog,
  DeskSheet,
  FindPalette,
  KeysSheet,
  NameDialog,
  ThreadDialog,
  useParts,
} from '@/features/desk/parts'
import UndoLine from '@/features/desk/UndoLine.vue'
import type { Label } from '@/lib/filters'
import { rememberDesk } from '@/features/desk/lastDesk'
import { useActs } from '@/features/desk/useActs'
import { useBulk } from '@/features/desk/useBulk'
import { useComposer } from '@/features/desk/useComposer'
import { useDeciding } from '@/features/desk/useDeciding'
import { useDecisions } from '@/features/desk/useDecisions'
import { useDeskAddress } from '@/features/desk/useDeskAddress'
import { useOffer } from '@/features/desk/useOffer'
import { useOutsideActs } from '@/features/desk/useOutsideActs'
import { NOBODY, usePresence } from '@/features/desk/usePresence'
import { useQueue } from '@/features/desk/useQueue'
import { useSelection } from '@/features/desk/useSelection'
import { useSheet } from '@/features/desk/useSheet'
import { useTakingBack } from '@/features/desk/useTakingBack'
import { useViews } from '@/features/desk/useViews'
import { useWalk } from '@/features/desk/useWalk'
import { useWriting } from '@/features/desk/useWriting'
import type { Doable } from '@/features/find/FindPalette.vue'
import { useSuggestion } from '@/features/find/useSuggestion'
import { usePlaces } from '@/features/find/usePlaces'
import TopBand from '@/features/frame/TopBand.vue'
import { useTour } from '@/composables/useTour'
import { MOVE_WORDS, MOVES } from '@/lib/words'
import { useSession } from '@/stores/session'

const router = useRouter()
const route = useRoute()
const session = useSession()
const { directory, byTag, refetchAccounts, refetchDirectory } = useDirectory()

const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const me = computed(() => session.session?.member_id ?? 0)
const maySort = computed(() => session.may('sort'))
const address = useDeskAddress(workspaceId)
const { move, openId, filters, unread, order, go, goTo, setFilters, openView } = address

watch(
  () => route.fullPath,
  (path) => route.name === 'desk' && rememberDesk(workspaceId.value, path),
  { immediate: true },
)
const queue = useQueue(workspaceId, move, filters, order)
const chosen = useSelection(queue, openId, () => JSON.stringify([move.value, filters.value]))
const meant = useSuggestion(
  workspaceId,
  computed(() => filters.value.words?.[0] ?? ''),
  computed(() => !queue.isFirst.value && !queue.rows.value.length && !queue.problem.value),
)
const { walk, toStart, toEnd, extend, neighbours, finish, goesOn } = useWalk(address, queue, chosen, me)
const saved = useViews(workspaceId, (words) => (acts.problem.value = words))
const parts = useParts()
const box = ref<InstanceType<typeof DeskSheet> | null>(null)
const head = computed(() => box.value?.head ?? null)
const pen = computed(() => box.value?.pen ?? null)
const isDrawn = ref(false)
watch(pen, (there) => there && (isDrawn.value = true))
const state = useSheet(workspaceId, openId, isDrawn, me)
watch(openId, (id) => id !== null && void parts.come(), { immediate: true })
watch(
  () => queue.isFirst.value,
  (isFirst) => !isFirst && parts.comeSoon(),
)
/** Nothing is done any more with what was erased. */
const isErased = computed(() => Boolean(state.sheet.value?.conversation.erased_at))
const mayAct = computed(() => maySort.value && !isErased.value)
const mayModerate = computed(() => session.may('moderate') && !isErased.value)
/** One's own act shows at once on the sheet; the list hears of it by the notice that everybody gets. */
const acts = useActs(workspaceId, (id, seq, sheet) => {
  if (sheet) state.bring(sheet)
  else void state.reach(id, seq)
  if (lostSince.value !== null) void queue.refresh([id])
})
const offer = useOffer(state.sheet)
const composer = useComposer(workspaceId, state, acts, mayAct)
const { write } = useWriting(openId, state, composer, (mode) => pen.value?.choose(mode))
const hereId = ref<number | null>(null)
watch(openId, (id) => (hereId.value = id), { immediate: true })
const presence = usePresence(workspaceId, me, hereId, composer.isWriting)

const { isFirstVisit } = useTour()
/** What is begun to be looked for while finding is open. */
const finding = ref<string | null>(null)
const isShowingKeys = ref(false)
const refused = ref<number | null>(null)
const isSeeingThread = ref(false)
const correcting = ref<Message | null>(null)
const isNaming = ref(false)
const cache = useQueryCache()
const keyRouter = useKeyRouter()
const bar = ref<InstanceType<typeof FilterBar> | null>(null)
const many = ref<InstanceType<typeof BulkBar> | null>(null)
const queueBox = ref<HTMLElement | null>(null)
const list = ref<InstanceType<typeof QueueList> | null>(null)
const strip = ref<InstanceType<typeof HorizonStrip> | null>(null)

const { lostSince } = useLive(workspaceId, onNotice)
function onNotice(notice: Notice): void {
  presence.onNotice(notice)
  if (notice.kind === 'conversations' || notice.kind === 'everything') strip.value?.soon()
  if (!['conversations', 'presence', 'reaction', 'draft'].includes(notice.kind)) state.forget()
  if (notice.kind === 'conversations' && notice.ids) {
    notice.ids.forEach(state.forget)
    state.lookAhead(neighbours.value)
    const { ids, seq } = notice
    const open = ids.find((id) => id === openId.value)
    // The sheet first: that is where one is looking.
    const shown = open === undefined ? Promise.resolve() : state.reach(open, seq)
    void shown.finally(() => void queue.refresh(ids))
  } else if (notice.kind === 'refused' && notice.member === me.value) {
    refused.value = notice.ids?.[0] ?? null
  } else if (notice.kind === 'accounts') {
    void refetchAccounts()
  } else if (
    notice.kind === 'approvals' ||
    (notice.kind === 'draft' && notice.member !== me.value && notice.ids?.includes(openId.value ?? 0))
  ) {
    void state.refetch()
  } else if (notice.kind === 'hours') {
    // Dues are being counted by other hours or targets: the counts and the strip follow as they come.
    void queue.countAgain()
    strip.value?.soon()
  } else if (notice.kind === 'tags' || notice.kind === 'team') {
    void refetchDirectory()
  } else if (notice.kind === 'cases') {
    cache.invalidateQueries({ key: ['cases', workspaceId.value] }).catch(isShown)
  } else if (notice.kind === 'everything') {
    void queue.catchUp()
    void state.refetch()
    void presence.load()
  }
}

function keepView(name: string, shared: boolean): void {
  isNaming.value = false
  void saved.save(name, shared, address.query.value)
}
/** A shared address names only the conversation: the list beside it is the one it stands in. */
watch([() => state.sheet.value?.conversation, address.saysMove], ([c, saysMove]) => {
  if (c && c.id === openId.value && !saysMove) address.setMove(c.move)
})

const opening = computed(() => queue.rows.value.find((r) => r.id === openId.value)?.person_name ?? 'the conversation')
watch(
  () => [openId.value, ...neighbours.value].join(),
  () => state.lookAhead(neighbours.value),
)
const { isSeen, act, actEach, left, drop } = useDeciding(
  computed(() => `${me.value} ${workspaceId.value}`),
  openId,
  state,
  acts,
  goesOn,
  finish,
  (title, words, run) =>
    (asking.value = {
      title,
      words,
      button: 'Do it all the same',
      run: () => {
        asking.value = null
        run()
      },
    }),
)
const bulk = useBulk(acts, chosen, queue, state, openId, go, () => list.value?.focus())
const busyOnes = computed(() => chosen.ids.value.filter((id) => presence.others.value.has(id)).length)
const { asking, lastOfTheirs, moderate, moderateLast, block, translate, openOutside } = useOutsideActs(
  state,
  acts,
  mayModerate,
)
async function correct(
  field: 'sentiment' | 'reads_as' | 'language',
  value: string | Label[] | null,
  words: string,
): Promise<void> {
  const message = correcting.value
  correcting.value = null
  if (message) await act({ act: 'correct', message_id: message.id, field, value }, words)
}
function onSent(settled: boolean, mode: ReplyMode): void {
  const id = openId.value
  list.value?.focus()
  if (id === null || mode === 'note') return
  void queue.countAgain()
  if (move.value !== 'any' && (move.value !== 'their_move' || settled)) finish(id)
  if (openId.value === id) void state.refetch()
}
/** A tag that a colleague, or one's own act, has just made: its name is asked for once. */
const askedTags = new Set<number>()
watch(state.sheet, (sheet) => {
  const named = sheet?.trail.flatMap((e) => ('tag' in e.data ? [e.data.tag] : [])) ?? []
  const unknown = [...(sheet?.conversation.tags ?? []), ...(sheet?.person.tags ?? []), ...named].filter(
    (id) => !byTag.value.has(id) && !askedTags.has(id),
  )
  if (!unknown.length || !directory.value) return
  unknown.forEach((id) => askedTags.add(id))
  void refetchDirectory()
})
const isAsking = ref(false)
function onAsked(seq: number, name: string): void {
  isAsking.value = false
  if (openId.value === null) return
  acts.remember({ conversation: openId.value, seq, words: `Asked ${name} by mail` })
  void state.refetch()
}
const { undo, undoAt } = useTakingBack(acts, state, openId, isSeen, queue, composer, go, refetchDirectory)
/** With several selected a key acts on all of them; what can only be done to one says so. */
const isMany = computed(() => chosen.ids.value.length > 0 && maySort.value)
const toAll = (many: () => unknown, one: () => unknown) => (): void =>
  parts.once(() => void (isMany.value ? many() : one()))
function onlyOne(run: () => void): () => void {
  return toAll(() => {
    acts.problem.value = `That is done to one conversation at a time. ${chosen.ids.value.length} are selected; Escape lets them go.`
    keyRouter.swallowLetters()
  }, run)
}
const decisions = useDecisions(
  [
    {
      key: 't',
      cap: 'T',
      words: 'Take it',
      run: toAll(
        () => many.value?.take(),
        () => head.value?.take(),
      ),
    },
    {
      key: 'g',
      cap: 'G',
      words: 'Give it to a colleague',
      run: toAll(
        () => bulk.open('give'),
        () => head.value?.give(),
      ),
    },
    {
      key: 'u',
      cap: 'U',
      words: 'Set the priority',
      run: toAll(
        () => many.value?.prioritise(),
        () => head.value?.prioritise(),
      ),
    },
    {
      key: 'k',
      cap: 'K',
      words: 'Keep it as our move',
      run: toAll(
        () => many.value?.keep(),
        () => head.value?.keep(),
      ),
    },
    {
      key: 'm',
      cap: 'M',
      words: 'Tag the conversation',
      run: toAll(
        () => bulk.open('tag'),
        () => head.value?.tag(),
      ),
    },
    {
      key: 'b',
      cap: 'B',
      words: 'Tag the person',
      run: toAll(
        () => bulk.open('tagPerson'),
        () => head.value?.tagPerson(),
      ),
    },
    {
      key: 'w',
      cap: 'W',
      words: 'Watch it',
      run: toAll(
        () => many.value?.watch(),
        () => head.value?.watch(),
      ),
    },
    {
      key: 'c',
      cap: 'C',
      words: 'Correct the reading',
      run: onlyOne(() => (correcting.value = lastOfTheirs.value ?? null)),
    },
    {
      key: 'y',
      cap: 'Y',
      words: 'Settle: no reply needed',
      run: toAll(
        () => many.value?.settleAs('no_reply_needed'),
        () => head.value?.settleAs('no_reply_needed'),
      ),
    },
    {
      key: 'j',
      cap: 'J',
      words: 'Settle as junk',
      run: toAll(
        () => many.value?.settleAs('junk'),
        () => head.value?.settleAs('junk'),
      ),
    },
    {
      key: 'i',
      cap: 'I',
      words: 'Like on the network',
      run: toAll(
        () => mayModerate.value && many.value?.like(),
        () => moderateLast('like', 'unlike'),
      ),
    },
    {
      key: 'h',
      cap: 'H',
      words: 'Hide on the network',
      run: toAll(
        () => mayModerate.value && many.value?.hide(),
        () => moderateLast('hide', 'show'),
      ),
    },
    { key: 'a', run: onlyOne(() => moderateLast('repost')) },
    { key: 'Delete', run: onlyOne(() => moderateLast('delete')) },
    {
      key: 'shift+Delete',
      cap: 'Shift Del',
      words: 'Block the person, or not',
      run: onlyOne(block),
      isOffered: () => state.sheet.value?.can_block === true && mayModerate.value,
    },
    {
      key: 'p',
      cap: 'P',
      words: 'Park it',
      run: toAll(
        () => many.value?.park(),
        () => head.value?.park(),
      ),
    },
    {
      key: 's',
      cap: 'S',
      words: 'Settle it',
      run: toAll(
        () => many.value?.settle(),
        () => head.value?.settle(),
      ),
    },
    {
      key: 'shift+s',
      cap: 'Shift S',
      words: 'Send the answer that a rule offers',
      run: onlyOne(() => void box.value?.sendOffer()),
      isOffered: () => offer.value !== null && mayAct.value,
    },
    {
      key: 'shift+n',
      cap: 'Shift N',
      words: 'Ask somebody outside, by mail',
      run: onlyOne(() => (isAsking.value = true)),
      isOffered: () => directory.value?.can_ask === true && session.may('ask_outside'),
    },
  ],
  computed(() => isMany.value || (mayAct.value && isSeen.value)),
)
const writings = useDecisions(
  [
    {
      key: 'r',
      cap: 'R',
      words: 'Reply publicly',
      run: toAll(
        () => bulk.mayAnswer.value && bulk.open('answer'),
        () => void write('public'),
      ),
    },
    { key: 'd', cap: 'D', words: 'Write privately', run: onlyOne(() => void write('private')) },
    {
      key: 'n',
      cap: 'N',
      words: 'Write a team note',
      run: toAll(
        () => bulk.open('note'),
        () => void write('note'),
      ),
    },
  ],
  computed(() => isMany.value || (mayAct.value && openId.value !== null)),
)
useKeys({
  ...decisions.keys,
  ...writings.keys,
  ArrowDown: () => walk(1),
  ArrowUp: () => walk(-1),
  'shift+ArrowDown': () => extend(1),
  'shift+ArrowUp': () => extend(-1),
  ' ': () => chosen.toggle(openId.value),
  f: () => bar.value?.open(),
  v: () => bar.value?.openViews(),
  o: openOutside,
  q: toAll(
    () => void bulk.translate(),
    () => void translate(lastOfTheirs.value),
  ),
  l: () => (isSeeingThread.value = isSeen.value && state.sheet.value?.post != null),
  '.': () => void list.value?.show(),
  z: () => void undo(),
  '?': () => parts.once(() => (isShowingKeys.value = true)),
  Escape: () => (chosen.ids.value.length ? chosen.clear() : openId.value !== null && go(null)),
  'ctrl+k': () => parts.once((typed) => (finding.value = typed)),
  ...Object.fromEntries(MOVES.map(([key], n) => [`shift+${n + 1}`, () => go(null, key)])),
})
useKeys({ 'ctrl+a': () => void bulk.selectAll(), Home: toStart, End: () => void toEnd() }, queueBox)

const places = usePlaces((to) => go(null, to))
const doables = computed<Doable[]>(() => [
  ...places.value,
  ...decisions.doables.value,
  ...writings.doables.value,
  ...(saved.views.value ?? []).map((v) => ({ words: `View: ${v.name}`, run: () => openView(v) })),
  { words: 'Show the keys', key: '?', run: () => (isShowingKeys.value = true) },
  { words: 'Sign out', run: () => void session.signOut().then(() => router.push({ name: 'sign-in' })) },
])
</script>

<template>
  <div class="flex h-full flex-col">
    <TopBand :lost-since="lostSince" @find="parts.once((typed) => (finding = typed))" />
    <p
      v-if="refused !== null"
      role="alert"
      class="flex items-center gap-3 bg-brick-wash px-4 py-1.5 text-[0.8125rem] text-brick">
      The network refused a reply of yours. The conversation is our move again, with its old due.
      <button type="button" class="font-semibold underline" @click="(go(refused, 'our_move'), (refused = null))">
        Open it
      </button>
      <button type="button" class="ml-auto underline" @click="refused = null">Close</button>
    </p>
    <HorizonStrip
      ref="strip"
      :workspace-id="workspaceId"
      :zone="zone"
      :from="filters.due_from?.[0]"
      :until="filters.due_until?.[0]"
      :is-late="filters.band?.[0] === 'late'"
      @select="(from, until) => setFilters({ ...filters, band: [], due_from: [from], due_until: [until] }, 'due')"
      @late="
        setFilters(
          { ...filters, due_from: [], due_until: [], band: filters.band?.[0] === 'late' ? [] : ['late'] },
          'due',
        )
      "
      @clear="setFilters({ ...filters, due_from: [], due_until: [] })" />
    <main
      class="grid min-h-0 flex-1 grid-cols-1 grid-rows-[minmax(0,1fr)] md:grid-cols-[minmax(21.25rem,25.25rem)_minmax(0,1fr)]">
      <section
        ref="queueBox"
        class="min-h-0 flex-col border-r border-rule"
        :class="openId === null ? 'flex' : 'hidden md:flex'"
        aria-label="Queue">
        <h1 v-if="openId === null" class="sr-only">{{ MOVE_WORDS[move] ?? 'All moves' }}</h1>
        <MoveTabs
          :counts="queue.counts.value"
          :move="move"
          :has-all="move === 'any' || Boolean(filters.report || filters.rule || filters.words)"
          @pick="(to) => go(null, to)" />
        <FilterBar
          ref="bar"
          :me="me"
          :filters="filters"
          :order="queue.order.value"
          :counts="queue.counts.value"
          :move="move"
          :views="saved.views.value ?? []"
          :unread="unread"
          :person-name="queue.rows.value[0]?.person_name"
          @set="(f) => setFilters(f)"
          @all="(isAll) => go(openId, isAll ? 'any' : 'our_move')"
          @order="(o) => setFilters(filters, o)"
          @view="openView"
          @save="isNaming = true"
          @forget="(v) => void saved.forget(v)" />
        <BulkBar
          ref="many"
          v-if="maySort && (chosen.ids.value.length || acts.progress.value)"
          :count="chosen.ids.value.length"
          :total="queue.count.value?.total"
          :busy-ones="busyOnes"
          :progress="acts.progress.value"
          :me="me"
          @act="bulk.act"
          :move="move"
          @tag="bulk.open('tag')"
          @tag-person="bulk.open('tagPerson')"
          @note="bulk.open('note')"
          :desks="directory?.desks ?? []"
          @give="bulk.open('give')"
          @hand="bulk.handOver"
          :may-answer="bulk.mayAnswer.value"
          :may-moderate="mayModerate"
          :can-translate="directory?.can_translate ?? false"
          :may-export="session.may('export')"
          @answer="bulk.open('answer')"
          @translate="bulk.translate"
          @export="(form) => void bulk.takeOut(form)"
          @all="bulk.selectAll"
          @clear="chosen.clear()" />
        <QueueList
          ref="list"
          :queue="queue"
          :move="move"
          :open-id="openId"
          :selected="chosen.selected.value"
          :others="presence.others.value"
          @open="go"
          @select="(id, isRange) => (isRange ? void chosen.extendTo(id) : chosen.toggle(id))"
          @clear="setFilters({})">
          <template #nothing>
            <p v-if="meant" class="mt-1">
              Did you mean
              <button
                type="button"
                class="font-semibold text-pine underline"
                data-test="meant"
                @click="setFilters({ ...filters, words: [meant] })">
                {{ meant }}</button>?
            </p>
          </template>
        </QueueList>
      </section>
      <DeskSheet
        ref="box"
        v-if="parts.isHere.value && state.sheet.value && openId !== null && state.phase.value !== 'failed'"
        :workspace-id="workspaceId"
        :sheet="state.sheet.value"
        :state="state"
        :composer="composer"
        :offer="offer"
        :is-seen="isSeen"
        :opening="opening"
        :zone="zone"
        :me="me"
        :present="presence.others.value.get(openId) ?? NOBODY"
        :may-act="mayAct"
        :may-moderate="mayModerate"
        :may-ask="session.may('ask_outside') && !isErased"
        :can-translate="directory?.can_translate ?? false"
        @back="go(null)"
        @open="(id) => go(id)"
        @act="act"
        @acts="actEach"
        @undo="undoAt"
        @thread="isSeeingThread = true"
        @moderate="moderate"
        @correct="(m) => (correcting = m ?? lastOfTheirs ?? null)"
        @translate="translate"
        @block="block"
        @ask="isAsking = true"
        @leave="list?.focus()"
        @sent="onSent" />
      <section
        v-else-if="openId !== null"
        class="bg-sheet"
        aria-label="Conversation"
        :aria-busy="state.phase.value === 'opening'"
        data-test="not-open">
        <button
          type="button"
          class="px-5 py-1 text-[0.8125rem] font-semibold text-pine underline md:hidden"
          @click="go(null)">
          Queue
        </button>
        <FailedBox
          v-if="state.problem.value"
          :what="opening === 'the conversation' ? 'The conversation' : `The conversation with ${opening}`"
          :reason="state.problem.value.message"
          :reference="state.problem.value.reference"
          @retry="state.refetch()" />
        <p v-else class="p-8 text-center text-ink-2">Opening {{ opening }} …</p>
      </section>
      <section
        v-else
        class="hidden min-h-0 scroll-quiet place-items-center overflow-y-auto bg-sheet p-8 text-center text-ink-2 md:grid"
        aria-label="Conversation">
        <FirstVisit v-if="isFirstVisit" />
        <p v-else>
          Choose a conversation, or press <kbd class="font-semibold">↓</kbd> for the first.
          <kbd class="font-semibold">?</kbd> shows all keys.
        </p>
      </section>
    </main>
    <AdviceDialog
      v-if="isAsking && state.sheet.value"
      :workspace-id="workspaceId"
      :conversation="state.sheet.value.conversation.id"
      :person="state.sheet.value.conversation.person_name"
      @close="isAsking = false"
      @asked="onAsked" />
    <UndoLine :acts="acts" :left="left" @undo="undo" @open="goTo" @drop="drop()" />
    <ThreadDialog
      v-if="isSeeingThread && state.sheet.value?.post"
      :workspace-id="workspaceId"
      :post-id="state.sheet.value.post.id"
      :person-id="state.sheet.value.conversation.person_id"
      :zone="zone"
      :may-draw="session.may('draw_prizes')"
      @close="isSeeingThread = false"
      @open="(id) => ((isSeeingThread = false), go(id))" />
    <CorrectDialog v-if="correcting" :message="correcting" @close="correcting = null" @correct="correct" />
    <NameDialog
      v-if="isNaming"
      title="Keep this as a view"
      label="Its name"
      :share="maySort"
      button="Keep"
      @close="isNaming = false"
      @name="keepView" />
    <BulkDialogs :bulk="bulk" :workspace-id="workspaceId" />
    <AskFirst v-if="asking" :asking="asking" @close="asking = null" />
    <KeysSheet v-if="isShowingKeys" @close="isShowingKeys = false" />
    <FindPalette
      v-if="finding !== null"
      :workspace-id="workspaceId"
      :doables="doables"
      :begun="finding"
      @close="finding = null"
      @open="goTo"
      @person="
        (id) => void router.push({ name: 'people', params: { workspace: String(workspaceId), person: String(id) } })
      "
      @all="
        (words) =>
          void router.push({ name: 'desk', params: { workspace: String(workspaceId) }, query: { move: 'any', words } })
      " />
  </div>
</template>
