<script setup lang="ts">
/** The number of one of the five things, beside it, on a first visit. */
import { useTour } from '@/composables/useTour'

defineProps<{ n: number }>()
const { isFirstVisit } = useTour()
</script>

<template>
  <span
    v-if="isFirstVisit"
    class="pointer-events-none grid size-5 shrink-0 place-items-center rounded-full bg-[#f0c75a] text-xs font-bold text-[#22251f]"
    aria-hidden="true"
    >{{ n }}</span
  >
</template>
