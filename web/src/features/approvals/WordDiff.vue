<script setup lang="ts">
/** What changed between two texts, word by word: struck out in brick, put in underlined in pine. */
import { diffWordsWithSpace } from 'diff'
import { computed } from 'vue'

const props = defineProps<{ before: string; after: string }>()
const pieces = computed(() => diffWordsWithSpace(props.before, props.after))
</script>

<template>
  <p class="break-words whitespace-pre-wrap" dir="auto">
    <component
      :is="p.added ? 'ins' : p.removed ? 'del' : 'span'"
      v-for="(p, n) in pieces"
      :key="n"
      :class="p.added ? 'border-b-2 border-pine bg-pine-wash no-underline' : p.removed ? 'text-brick line-through' : ''"
      >{{ p.value }}</component
    >
  </p>
</template>
