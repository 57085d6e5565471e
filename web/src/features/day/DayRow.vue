<script setup lang="ts">
/** One line of a day's lists: who, what about it, and when. */
import { RouterLink, type RouteLocationRaw } from 'vue-router'

defineProps<{ to: RouteLocationRaw; name: string; words: string; when: string; isLate?: boolean }>()
</script>

<template>
  <li class="flex items-baseline gap-2 border-b border-rule-soft py-1.5">
    <RouterLink :to="to" class="min-w-0 flex-1 truncate hover:underline"
      ><b>{{ name }}</b> <span class="text-ink-2" dir="auto">{{ words }}</span></RouterLink
    ><span class="text-xs whitespace-nowrap" :class="isLate ? 'font-semibold text-brick' : 'text-ink-2'">{{
      when
    }}</span>
  </li>
</template>
