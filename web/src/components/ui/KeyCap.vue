<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{ keys: string }>()
/** One character: shown as the member wants such keys, by the style of the page. */
const isSingle = computed(() => /^(Shift )?\S$/.test(props.keys))
</script>

<template>
  <kbd
    aria-hidden="true"
    class="hidden rounded-[3px] border border-current px-1 py-px font-sans text-[0.6875rem] leading-tight font-semibold opacity-80 md:inline-block"
    :data-single="isSingle || undefined"
    >{{ keys }}</kbd
  >
</template>
