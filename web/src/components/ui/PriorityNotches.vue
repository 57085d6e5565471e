<script setup lang="ts">
/** Three notches, filled from below: Normal one, High two, Urgent three; Low none. Never colour alone. */
defineProps<{ priority: number; word: string }>()
</script>

<template>
  <span class="flex w-3 flex-col-reverse justify-end gap-[2px] pt-[3px]" role="img" :aria-label="`Priority ${word}`">
    <i
      v-for="n in 3"
      :key="n"
      class="block h-[5px] w-3 -skew-y-[14deg]"
      :class="n <= priority ? (priority === 3 ? 'bg-brick' : 'bg-ink') : 'bg-rule'" />
  </span>
</template>
