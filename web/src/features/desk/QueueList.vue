<script setup lang="ts">
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/vue-virtual'
import { useRoute } from 'vue-router'
import { computed, nextTick, onMounted, ref, watch, watchEffect } from 'vue'
import type { Standing, Present } from '@/api/types'
import { useClock } from '@/composables/useClock'
import FailedBox from '@/components/ui/FailedBox.vue'
import { announce } from '@/lib/announcer'
import TourMark from '@/features/help/TourMark.vue'
import QueueRow from './QueueRow.vue'
import { nameRow } from './rowWords'
import { NOBODY } from './usePresence'
import type { Queue } from './useQueue'
import { useSession } from '@/stores/session'

const props = defineProps<{
  queue: Queue
  move: Standing
  openId: number | null
  selected: Set<number>
  others: Map<number, Present[]>
}>()
const emit = defineEmits<{ open: [id: number]; select: [id: number, isRange: boolean]; clear: [] }>()
/** A plain click opens, with Shift it chooses up to here; with Ctrl it is the browser's own, as on any link. */
function click(id: number, event: MouseEvent): void {
  // Enter on a row is a click too; with a chord it was meant for something else, and opens no other tab.
  const isMouse = event.detail > 0
  if (isMouse && (event.ctrlKey || event.metaKey)) return
  event.preventDefault()
  if (isMouse && event.shiftKey) emit('select', id, true)
  else emit('open', id)
}
const route = useRoute()
/** Where a row leads, in another tab too: the conversation, in the list that is shown. */
const search = computed(() => /\?.*$/.exec(route.fullPath)?.[0] ?? '')
const makeAddress = (id: number): string => `/w/${String(route.params.workspace)}/desk/${id}${search.value}`
/** With Shift a box chooses all up to it; the key is said by the click, before the box has changed. */
const isRange = ref(false)
const session = useSession()
const maySort = computed(() => session.may('sort'))
const { now } = useClock()

/** How high a row is until it has been drawn: most say two lines. */
const ROW = { full: 58, compact: 37 }
const BAND = 22
const scroller = ref<HTMLElement | null>(null)
const lines = computed(() => props.queue.lines.value)
const density = computed(() => session.session?.screen.density ?? 'full')
/** Where each row stands in the whole list, and how long that is: more than what is drawn. */
const places = computed(() => props.queue.places.value)
const total = computed(() => props.queue.length.value)
/** Tab comes to the open conversation, or to the first. */
const stop = computed(() =>
  props.openId !== null && places.value.has(props.openId) ? props.openId : props.queue.rows.value[0]?.id,
)

/** Where what is not loaded stands, if it does: as high as its rows will be. */
const gap = computed(() => lines.value.findIndex((line) => 'between' in line))
function guessHeight(index: number): number {
  const line = lines.value[index]
  if (line && 'between' in line) return line.between * ROW[density.value]
  return line && 'band' in line ? BAND : ROW[density.value]
}
function keyOf(index: number): number | string {
  const line = lines.value[index]
  if (!line || 'between' in line) return 'between'
  return 'row' in line ? line.row.id : `band-${line.band}`
}
const openLine = computed(() => lines.value.findIndex((line) => 'row' in line && line.row.id === props.openId))
const virtualizer = useVirtualizer(
  computed(() => ({
    count: lines.value.length,
    getScrollElement: () => scroller.value,
    estimateSize: guessHeight,
    getItemKey: keyOf,
    overscan: 6,
    // The open row stays drawn wherever one scrolls to: it may have the focus.
    rangeExtractor: (range) =>
      openLine.value < 0
        ? defaultRangeExtractor(range)
        : [...new Set([...defaultRangeExtractor(range), openLine.value])].sort((a, b) => a - b),
  })),
)
/** Measured once: from then on the browser says when one becomes higher. Asking each time a row is painted makes it lay out all of them at once. */
let measured = new WeakSet<Element>()
watch([density, () => session.session?.screen.text_size], () => {
  measured = new WeakSet()
  virtualizer.value.measure()
})
function measure(el: unknown): void {
  const row = el as Element | null
  if (row && measured.has(row)) return
  if (row) measured.add(row)
  virtualizer.value.measureElement(row)
}

watchEffect(() => {
  const seen = virtualizer.value.range
  if (!seen) return
  const at = gap.value
  if (at < 0 ? seen.endIndex >= lines.value.length - 21 : seen.startIndex <= at && seen.endIndex >= at - 21)
    void props.queue.loadMore()
  else if (at >= 0 && seen.startIndex > at && seen.startIndex <= at + 21) void props.queue.loadMore(true)
})

/** The place of what a line shows in the whole list; a band has none. */
function placeOf(index: number): number | undefined {
  const line = lines.value[index]
  return line && 'row' in line ? places.value.get(line.row.id) : undefined
}

/** All that a line is painted of, but for what its row looks up itself: while none of it changes the line stays as it is. */
function shownOf(index: number): unknown[] {
  const line = lines.value[index]
  const shared = [
    index,
    line && 'row' in line ? line.row : line,
    density.value,
    props.move,
    search.value,
    maySort.value,
  ]
  if (!line || !('row' in line)) return shared
  const { id } = line.row
  const marks = [id === props.openId, id === stop.value, props.selected.has(id), props.selected.size > 0]
  return [...shared, ...marks, props.others.get(id), placeOf(index), total.value]
}

function scrollTo(id: number | null | undefined, align: 'auto' | 'center'): void {
  const index = lines.value.findIndex((line) => 'row' in line && line.row.id === id)
  if (index < 0) return
  virtualizer.value.scrollToIndex(index, { align })
  // The browser says so only when it paints: then the list would be drawn twice, before and after it has heard.
  scroller.value?.dispatchEvent(new Event('scroll'))
}
/** Whoever walks through the list has the focus on the row that is open; whoever writes keeps it where they write. */
async function follow(id: number): Promise<void> {
  await nextTick()
  const find = (): HTMLElement | null | undefined => scroller.value?.querySelector(`[data-conversation='${id}']`)
  // A list that has just become another one is drawn a frame later; until then the list itself has the focus.
  if (!find()) {
    scroller.value?.focus({ preventScroll: true })
    await new Promise(requestAnimationFrame)
  }
  find()?.focus({ preventScroll: true })
}
watch(
  () => props.openId,
  (id) => {
    scrollTo(id, 'auto')
    const row = props.queue.rows.value.find((r) => r.id === id)
    // Where a row has gone that had it, the page has the focus.
    const has = document.activeElement
    if (!row || !(has === document.body || scroller.value?.contains(has))) return
    void follow(row.id)
    announce(`${nameRow(row, props.move, now.value)}, ${places.value.get(row.id)} of ${total.value}`)
  },
)
/** A shared address opens the conversation first; its list comes after and goes to where it stands. */
watch(
  () => props.queue.isFirst.value,
  (isFirst) => {
    if (!isFirst) setTimeout(() => scrollTo(props.openId, 'center'))
  },
)
/** Bring in what waits, and go where the first of it stands. */
async function show(): Promise<void> {
  const first = props.queue.show()
  await nextTick()
  scrollTo(first, 'center')
}
function focus(): void {
  scroller.value?.focus({ preventScroll: true })
  if (props.openId !== null) void follow(props.openId)
}
// Keys act on the queue from the start, unless one is in something else already.
onMounted(() => document.activeElement === document.body && focus())
defineExpose({ show, focus })

const EMPTY: Record<Standing, string> = {
  any: 'There is nothing yet.',
  unsorted: 'Everything is sorted. What waits for an answer stands under Our move.',
  our_move: 'Nothing waits for an answer from us. New arrivals come in under Unsorted.',
  in_review: 'No reply waits for approval.',
  their_move: 'We are not waiting for anybody.',
  parked: 'Nothing is parked.',
  settled: 'Nothing has been settled yet.',
}
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col">
    <div aria-live="polite" class="shrink-0">
      <button
        v-if="queue.waiting.value.length"
        type="button"
        class="w-full border-b border-pine-line bg-pine-wash px-3.5 py-1.5 text-left text-[0.8125rem] font-semibold text-pine hover:underline"
        data-test="show-new"
        @click="show">
        {{ queue.waiting.value.length }} new, show
      </button>
    </div>
    <FailedBox
      v-if="queue.problem.value"
      is-line
      class="shrink-0"
      what="The queue"
      :reason="queue.problem.value.message"
      :reference="queue.problem.value.reference"
      @retry="queue.reload()" />
    <div
      ref="scroller"
      class="relative min-h-0 flex-1 scroll-quiet overflow-y-auto focus:outline-none"
      tabindex="-1"
      data-test="queue">
      <TourMark :n="4" class="absolute top-0.5 left-1/2 z-30" />
      <div
        v-if="queue.isFirst.value && !lines.length && !queue.problem.value"
        role="status"
        aria-busy="true"
        aria-label="Loading">
        <div
          v-for="n in 10"
          :key="n"
          class="border-b border-rule-soft bg-sheet p-3"
          :style="{ height: `${ROW[density]}px` }">
          <div class="h-3 w-2/5 rounded bg-fold" />
          <div class="mt-2 h-3 w-4/5 rounded bg-fold" />
        </div>
      </div>
      <div v-else-if="!lines.length && !queue.isFirst.value" class="px-6 py-10 text-center text-ink-2">
        <p>{{ queue.isFiltered.value ? 'Nothing here passes the filters.' : EMPTY[move] }}</p>
        <slot name="nothing" />
        <button
          v-if="queue.isFiltered.value"
          type="button"
          class="mt-2 font-semibold text-pine underline"
          data-test="clear-empty"
          @click="emit('clear')">
          Clear the filters
        </button>
      </div>
      <div v-else role="list" class="relative" :style="{ height: `${virtualizer.getTotalSize()}px` }">
        <div
          v-for="item in virtualizer.getVirtualItems()"
          v-memo="[item.start, ...shownOf(item.index)]"
          :ref="measure"
          :key="String(item.key)"
          role="listitem"
          class="group absolute inset-x-0 top-0"
          :aria-posinset="placeOf(item.index)"
          :aria-setsize="placeOf(item.index) ? total : undefined"
          :data-index="item.index"
          :style="{ transform: `translateY(${item.start}px)` }">
          <template v-for="(line, n) in lines.slice(item.index, item.index + 1)" :key="keyOf(item.index + n)">
            <p
              v-if="'between' in line"
              class="bg-fold"
              :style="{ height: `${line.between * ROW[density]}px` }"
              data-test="between">
              <span class="sticky top-0 block px-3.5 py-2 text-center text-[0.8125rem] text-ink-2">
                {{ line.between }} more are on their way
              </span>
            </p>
            <h2
              v-if="'band' in line"
              class="flex items-center justify-between px-3.5 py-[2.5px] text-xs font-semibold"
              :class="line.band === 'late' ? 'bg-brick-wash text-brick' : 'bg-fold text-ink-2'">
              <span>{{ line.title }}</span><span>{{ line.total }}</span>
            </h2>
            <label
              v-if="'row' in line && maySort"
              class="absolute bottom-0 left-0 z-20 grid size-7 cursor-pointer items-end justify-items-center pb-[3px] opacity-0 group-hover:opacity-100 focus-within:opacity-100 pointer-coarse:opacity-100"
              :class="selected.size ? 'opacity-100' : ''">
              <input
                type="checkbox"
                tabindex="-1"
                class="accent-pine"
                :checked="selected.has(line.row.id)"
                :aria-label="`Select ${line.row.person_name}`"
                data-test="row-box"
                @click="isRange = $event.shiftKey"
                @change="emit('select', line.row.id, isRange)" />
            </label>
            <QueueRow
              v-if="'row' in line"
              :row="line.row"
              :address="makeAddress(line.row.id)"
              :move="move"
              :is-open="line.row.id === openId"
              :is-selected="selected.has(line.row.id)"
              :is-stop="line.row.id === stop"
              :is-compact="density === 'compact'"
              :present="others.get(line.row.id) ?? NOBODY"
              @open="(event) => click(line.row.id, event)" />
          </template>
        </div>
      </div>
    </div>
  </div>
</template>
