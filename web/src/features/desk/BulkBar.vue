<script setup lang="ts">
/** What can be done to all that is selected; the reading of who else is on them, so that nobody is run over. */
import { ref } from 'vue'
import type { Act, Desk, SettledAs } from '@/api/types'
import PickMenu from '@/components/ui/PickMenu.vue'
import { PRIORITIES, SETTLED } from '@/lib/words'

defineProps<{
  count: number
  total: number | undefined
  busyOnes: number
  progress: { done: number; of: number } | null
  me: number
  desks: Desk[]
}>()
const emit = defineEmits<{
  act: [body: Act, words: string]
  tag: []
  give: []
  hand: [desk: Desk]
  all: []
  clear: []
}>()
const HOW = ['no_reply_needed', 'answered', 'junk'] as const
/** Settle's menu leads to the desks too: handing over settles. */
function finish(choice: SettledAs | `desk ${number}`, desks: Desk[]): void {
  const desk = desks.find((d) => choice === `desk ${d.id}`)
  if (desk) emit('hand', desk)
  else emit('act', { act: 'settle', how: choice as SettledAs }, `settled: ${SETTLED[choice]}`)
}
const park = ref<{ open: () => void } | null>(null)
defineExpose({ park })
</script>

<template>
  <section
    class="shrink-0 border-b border-pine-line bg-pine-wash px-2.5 py-1 text-[13px] text-pine"
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
      <button
        type="button"
        class="rounded px-2 py-[3px] font-semibold hover:bg-fold"
        @click="emit('act', { act: 'assign', owner_id: me, note: null }, 'taken')">
        Take
      </button>
      <button type="button" class="rounded px-2 py-[3px] font-semibold hover:bg-fold" @click="emit('give')">
        Give
      </button>
      <button
        type="button"
        class="rounded px-2 py-[3px] font-semibold hover:bg-fold"
        @click="emit('act', { act: 'keep' }, 'kept')">
        Keep
      </button>
      <PickMenu
        label="Priority of all"
        plain
        :choices="PRIORITIES.map((text, value) => ({ value, text })).reverse()"
        @pick="(p) => emit('act', { act: 'prioritise', priority: p }, `made ${PRIORITIES[p]}`)"
        >Priority</PickMenu
      >
      <button type="button" class="rounded px-2 py-[3px] font-semibold hover:bg-fold" @click="emit('tag')">Tag</button>
      <PickMenu
        label="Settle all"
        plain
        :choices="[
          ...HOW.map((value) => ({ value: value as SettledAs, text: `As ${SETTLED[value]}` })),
          ...desks.map((d) => ({ value: `desk ${d.id}` as const, text: `Hand over to ${d.name} …` })),
        ]"
        @pick="(choice) => finish(choice, desks)"
        >Settle</PickMenu
      >
    </div>
  </section>
</template>
