<script setup lang="ts">
/** All that one can filter by: what is used most stands first, what is typed narrows it, and Enter finds it in messages. */
import { computed, onMounted, ref } from 'vue'
import type { Standing } from '@/api/types'
import { TITLES, toggle, type Filters } from '@/lib/filters'

export interface FilterChoice {
  value: string
  text: string
  n?: number | undefined
}
const props = defineProps<{
  groups: { name: string; choices: FilterChoice[] }[]
  filters: Filters
  move: Standing
}>()
const emit = defineEmits<{ set: [filters: Filters]; all: [isAll: boolean]; close: [] }>()
/** So many of each are shown until one asks for more. */
const FIRST = 6
/** These have an order of their own, which says more than their numbers do. */
const ORDERED = ['band', 'priority', 'public', 'sentiment', 'bare_mention']
const words = ref(props.filters.words?.[0] ?? '')
const field = ref<HTMLInputElement | null>(null)
const opened = ref(new Set<string>())
// Whoever opens it writes at once.
onMounted(() => {
  field.value?.focus()
  field.value?.select()
})

const isSet = (name: string, value: string): boolean => props.filters[name]?.includes(value) ?? false
const fold = (text: string): string => text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase()
const shown = computed(() => {
  const typed = fold(words.value.trim())
  const isNarrowed = typed !== '' && words.value !== props.filters.words?.[0]
  return props.groups
    .map(({ name, choices }) => {
      const title = TITLES[name] ?? name
      const fitting = isNarrowed ? choices.filter((c) => fold(`${title} ${c.text}`).includes(typed)) : choices
      const inOrder = ORDERED.includes(name) ? fitting : [...fitting].sort((a, b) => (b.n ?? 0) - (a.n ?? 0))
      const isWhole = isNarrowed || opened.value.has(name) || inOrder.length <= FIRST
      const first = isWhole
        ? inOrder
        : inOrder.filter((c, n) => isSet(name, c.value) || (n < FIRST && (c.n !== 0 || c.value === 'me')))
      return { name, title, choices: first, more: inOrder.length - first.length }
    })
    .filter((g) => g.choices.length || g.more)
})
function find(): void {
  emit('set', { ...props.filters, words: words.value.trim() ? [words.value.trim()] : [] })
  emit('close')
}
/** Days on the workspace's calendar; the last one counts too. */
function setDay(name: 'since' | 'until', day: string): void {
  emit('set', { ...props.filters, [name]: day ? [day] : [] })
}
const pill = (isOn: boolean): string =>
  isOn ? 'border-pine bg-pine-wash font-semibold text-pine' : 'border-rule bg-sheet hover:bg-fold'
</script>

<template>
  <form class="mb-2 flex gap-1.5" @submit.prevent="find">
    <input
      ref="field"
      v-model="words"
      class="w-full rounded border border-rule bg-sheet px-2 py-1"
      placeholder="Words in a message, or a filter"
      aria-label="Words in a message, or a filter"
      data-test="filter-words" />
    <button type="submit" class="rounded bg-pine px-2.5 font-bold text-on-pine">Find</button>
  </form>
  <p class="mb-2 text-xs text-ink-2">
    “words in a row”, -without, begin* · <kbd class="font-semibold">Enter</kbd> finds them in messages
  </p>
  <p v-if="!shown.length" class="mb-2 text-ink-2">No filter is called that.</p>
  <div class="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1 text-xs text-ink-2">
    <button
      type="button"
      class="rounded-full border px-2 py-0.5 text-[0.78125rem] text-ink"
      :class="pill(move === 'any')"
      :aria-pressed="move === 'any'"
      data-filter="move=any"
      @click="emit('all', move !== 'any')">
      In all moves
    </button>
    <label
      >Since
      <input
        type="date"
        class="rounded border border-rule bg-sheet px-1 py-0.5 text-ink"
        :value="filters.since?.[0]?.slice(0, 10)"
        @change="setDay('since', ($event.target as HTMLInputElement).value)"
    /></label>
    <label
      >Until
      <input
        type="date"
        class="rounded border border-rule bg-sheet px-1 py-0.5 text-ink"
        :value="filters.until?.[0]?.slice(0, 10)"
        @change="setDay('until', ($event.target as HTMLInputElement).value)"
    /></label>
  </div>
  <fieldset v-for="g in shown" :key="g.name" class="mb-2">
    <legend class="mb-1 text-xs font-semibold text-ink-2">{{ g.title }}</legend>
    <div class="flex flex-wrap gap-1">
      <button
        v-for="c in g.choices"
        :key="c.value"
        type="button"
        class="rounded-full border px-2 py-0.5"
        :class="pill(isSet(g.name, c.value))"
        :aria-pressed="isSet(g.name, c.value)"
        :data-filter="`${g.name}=${c.value}`"
        @click="emit('set', toggle(filters, g.name, c.value))">
        {{ c.text
        }}<span v-if="c.n !== undefined" class="ml-1 text-ink-2">{{
          g.name === 'unread' && c.n === 1000 ? '1,000 or more' : c.n
        }}</span>
      </button>
      <button
        v-if="g.more"
        type="button"
        class="px-1.5 py-0.5 text-pine underline"
        :data-more="g.name"
        @click="opened.add(g.name)">
        {{ g.more }} more<span class="sr-only"> of {{ g.title }}</span>
      </button>
    </div>
  </fieldset>
</template>
