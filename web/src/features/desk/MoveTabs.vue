<script setup lang="ts">
import type { Counts, Move } from '@/api/types'
import { MOVES } from '@/lib/words'

const props = defineProps<{ counts: Counts | null; move: Move }>()
const emit = defineEmits<{ pick: [move: Move] }>()
const totalOf = (move: string): number | undefined => props.counts?.moves.find((m) => m.move === move)?.total
</script>

<template>
  <nav class="grid shrink-0 grid-cols-6 border-b border-rule bg-paper" aria-label="Moves">
    <button
      v-for="[key, word] in MOVES"
      :key="key"
      type="button"
      class="border-r border-rule-soft px-0.5 pt-[7px] pb-1.5 text-center text-xs whitespace-nowrap last:border-0 hover:bg-sheet"
      :class="key === move ? 'bg-sheet font-semibold text-pine shadow-[inset_0_3px_0_var(--pine)]' : 'text-ink-2'"
      :aria-current="key === move ? 'page' : undefined"
      :data-move="key"
      @click="emit('pick', key)">
      <b class="block font-name text-[17px] leading-tight font-semibold text-ink">{{ totalOf(key) ?? '–' }}</b>
      {{ word }}
    </button>
  </nav>
</template>
