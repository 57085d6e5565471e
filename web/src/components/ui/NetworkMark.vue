<script setup lang="ts">
/** A network's two letters; a dashed frame says private. */
defineProps<{ letters: string; name: string; isPrivate?: boolean }>()
</script>

<template>
  <span
    class="grid size-7 shrink-0 place-items-center rounded-[5px] border-[1.5px] font-name text-xs font-bold"
    :class="isPrivate ? 'border-dashed border-plum text-plum' : 'border-ink-2 text-ink'"
    role="img"
    :aria-label="isPrivate ? `${name}, private` : name"
    >{{ letters }}</span
  >
</template>
