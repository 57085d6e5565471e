<script setup lang="ts">
import type { Counts, Standing } from '@/api/types'
import { computed } from 'vue'
import TourMark from '@/features/help/TourMark.vue'
import { MOVES } from '@/lib/words'

const props = defineProps<{ counts: Counts | null; move: Standing; hasAll: boolean }>()
const emit = defineEmits<{ pick: [move: Standing] }>()
const ALL: readonly [Standing, string] = ['any', 'All']
const tabs = computed<(readonly [Standing, string])[]>(() => (props.hasAll ? [ALL, ...MOVES] : [...MOVES]))
const totalOf = (move: Standing): number | undefined =>
  move === 'any'
    ? props.counts?.moves.reduce((sum, m) => sum + m.total, 0)
    : props.counts?.moves.find((m) => m.move === move)?.total
</script>

<template>
  <nav class="relative grid shrink-0 auto-cols-fr grid-flow-col border-b border-rule bg-paper" aria-label="Moves">
    <TourMark :n="1" class="absolute top-1 left-[calc(100%/6-0.625rem)] z-10" />
    <button
      v-for="[key, word] in tabs"
      :key="key"
      type="button"
      class="border-r border-rule-soft px-0.5 pt-1.5 pb-1 text-center text-xs whitespace-nowrap last:border-0 hover:bg-sheet"
      :class="key === move ? 'bg-sheet font-semibold text-pine shadow-[inset_0_3px_0_var(--pine)]' : 'text-ink-2'"
      :aria-current="key === move ? 'page' : undefined"
      :data-move="key"
      @click="emit('pick', key)">
      <b class="block font-name text-[1.0625rem] leading-tight font-semibold text-ink">{{ totalOf(key) ?? '–' }}</b>
      {{ word }}
    </button>
  </nav>
</template>
