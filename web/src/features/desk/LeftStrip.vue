<script setup lang="ts">
/** Above the answer, at every width: what colleagues have left here, and the newest of it. */
import { sayTime } from '@/lib/words'
import type { Left } from './left'

defineProps<{ left: Left; zone: string }>()
defineEmits<{ show: [] }>()
</script>

<template>
  <button
    type="button"
    class="mx-2 mb-1 flex shrink-0 items-baseline gap-2 rounded border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-1 text-left text-[0.8125rem] text-honey-ink hover:underline md:mx-5"
    data-test="left"
    @click="$emit('show')">
    <b class="whitespace-nowrap">{{ left.count }}</b>
    <span class="min-w-0 flex-1 truncate" dir="auto"
      >{{ left.by }}, {{ sayTime(left.at, zone) }}: {{ left.words.replace(/\s+/g, ' ') }}</span
    >
  </button>
</template>
