<script setup lang="ts">
/** What can be done to all that is selected; the reading of who else is on them, so that nobody is run over. */
import { computed, ref } from 'vue'
import type { Act, Desk, Standing, ParkFor, SettledAs } from '@/api/types'
import PickMenu from '@/components/ui/PickMenu.vue'
import KeyCap from '@/components/ui/KeyCap.vue'
import { PARKING, PRIORITIES, SETTLED } from '@/lib/words'

const props = defineProps<{
  count: number
  total: number | undefined
  busyOnes: number
  progress: { done: number; of: number } | null
  me: number
  move: Standing
  desks: Desk[]
  mayAnswer: boolean
  mayModerate: boolean
  canTranslate: boolean
  mayExport: boolean
}>()
const emit = defineEmits<{
  act: [body: Act, words: string]
  tag: []
  tagPerson: []
  note: []
  give: []
  hand: [desk: Desk]
  all: []
  clear: []
  answer: []
  translate: []
  export: [form: 'csv' | 'xlsx']
}>()
const HOW = ['answered', 'no_reply_needed', 'handed_over', 'junk', 'removed'] as const
/** Settle's menu leads to the desks too: handing over settles. */
function finish(choice: SettledAs | `desk ${number}`, desks: Desk[]): void {
  const desk = desks.find((d) => choice === `desk ${d.id}`)
  if (desk) emit('hand', desk)
  else settleAs(choice as SettledAs)
}
const settleAs = (how: SettledAs): void => emit('act', { act: 'settle', how }, `settled: ${SETTLED[how]}`)
const take = (): void => emit('act', { act: 'assign', owner_id: props.me, note: null }, 'taken')
const keep = (): void =>
  props.move === 'settled' ? emit('act', { act: 'reopen' }, 'brought back') : emit('act', { act: 'keep' }, 'kept')
const watchAll = (): void => emit('act', { act: 'watch', on: true }, 'watched')
const parkFor = (choice: ParkFor): void =>
  emit('act', { act: 'park', choice, until: null }, `parked: ${PARKING.find(([k]) => k === choice)?.[1].toLowerCase()}`)
const like = (): void => emit('act', { act: 'moderate', what: 'like' }, 'liked')
const hide = (): void => emit('act', { act: 'moderate', what: 'hide' }, 'hidden')
/** What is wanted more seldom, or not of everybody. */
const MORE = {
  answer: () => emit('answer'),
  like,
  hide,
  translate: () => emit('translate'),
  csv: () => emit('export', 'csv'),
  xlsx: () => emit('export', 'xlsx'),
}
const more = computed(() => [
  ...(props.mayAnswer ? [{ value: 'answer' as const, text: 'Answer with a saved reply …', hint: 'R' }] : []),
  ...(props.mayModerate
    ? [
        { value: 'like' as const, text: 'Like what they wrote last', hint: 'I' },
        { value: 'hide' as const, text: 'Hide what they wrote last', hint: 'H' },
      ]
    : []),
  ...(props.canTranslate ? [{ value: 'translate' as const, text: 'Translate what they wrote last', hint: 'Q' }] : []),
  ...(props.mayExport
    ? [
        { value: 'csv' as const, text: 'Take these out as CSV' },
        { value: 'xlsx' as const, text: 'Take these out as a workbook' },
      ]
    : []),
])
type Opened = { open: () => void }
const priorityMenu = ref<Opened | null>(null)
const parkMenu = ref<Opened | null>(null)
const settleMenu = ref<Opened | null>(null)
defineExpose({
  take,
  keep,
  settleAs,
  watch: watchAll,
  like,
  hide,
  prioritise: () => priorityMenu.value?.open(),
  park: () => parkMenu.value?.open(),
  settle: () => settleMenu.value?.open(),
})
</script>

<template>
  <section
    class="shrink-0 border-b border-pine-line bg-pine-wash px-2.5 py-1 text-[0.8125rem] text-pine"
    aria-label="Selected"
    data-test="selected">
    <p class="flex items-center gap-2">
      <b>{{ count }} selected</b>
      <span v-if="busyOnes" class="font-semibold text-plum">{{ busyOnes }} open elsewhere</span>
      <button v-if="total && total > count" type="button" class="font-semibold underline" @click="emit('all')">
        all {{ total }} that match
      </button>
      <button type="button" class="ml-auto font-semibold underline" @click="emit('clear')">none</button>
    </p>
    <p v-if="progress" role="status">Done {{ progress.done }} of {{ progress.of }} …</p>
    <div v-else class="-ml-2 flex flex-wrap items-center">
      <button type="button" class="rounded px-2 py-[3px] font-semibold hover:bg-fold" @click="take">
        Take <KeyCap keys="T" />
      </button>
      <button type="button" class="rounded px-2 py-[3px] font-semibold hover:bg-fold" @click="emit('give')">
        Give <KeyCap keys="G" />
      </button>
      <button type="button" class="rounded px-2 py-[3px] font-semibold hover:bg-fold" @click="keep">
        {{ move === 'settled' ? 'Bring back' : 'Keep' }} <KeyCap keys="K" />
      </button>
      <PickMenu
        ref="priorityMenu"
        label="Priority of all"
        plain
        :choices="PRIORITIES.map((text, value) => ({ value, text })).reverse()"
        @pick="(p) => emit('act', { act: 'prioritise', priority: p }, `made ${PRIORITIES[p]}`)"
        >Priority <KeyCap keys="U"
      /></PickMenu>
      <PickMenu
        ref="parkMenu"
        label="Park all"
        plain
        :choices="PARKING.map(([value, text]) => ({ value, text }))"
        @pick="parkFor"
        >Park <KeyCap keys="P"
      /></PickMenu>
      <button type="button" class="rounded px-2 py-[3px] font-semibold hover:bg-fold" @click="emit('tag')">
        Tag <KeyCap keys="M" />
      </button>
      <button type="button" class="rounded px-2 py-[3px] font-semibold hover:bg-fold" @click="emit('tagPerson')">
        Tag the people <KeyCap keys="B" />
      </button>
      <button type="button" class="rounded px-2 py-[3px] font-semibold hover:bg-fold" @click="watchAll">
        Watch <KeyCap keys="W" />
      </button>
      <button type="button" class="rounded px-2 py-[3px] font-semibold hover:bg-fold" @click="emit('note')">
        Note <KeyCap keys="N" />
      </button>
      <PickMenu
        ref="settleMenu"
        label="Settle all"
        plain
        :choices="[
          ...HOW.map((value) => ({ value: value as SettledAs, text: `As ${SETTLED[value]}` })),
          ...desks.map((d) => ({ value: `desk ${d.id}` as const, text: `Hand over to ${d.name} …` })),
        ]"
        @pick="(choice) => finish(choice, desks)"
        >Settle <KeyCap keys="S"
      /></PickMenu>
      <PickMenu
        v-if="more.length"
        label="More for all"
        plain
        :choices="more"
        data-test="more-for-all"
        @pick="(what) => MORE[what]()"
        >More <span aria-hidden="true">▾</span></PickMenu
      >
    </div>
  </section>
</template>
