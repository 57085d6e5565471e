<script setup lang="ts">
defineProps<{ initials: string; live?: boolean }>()
</script>

<template>
  <span
    aria-hidden="true"
    class="inline-grid size-5 shrink-0 place-items-center rounded-full text-[0.59375rem] font-bold"
    :class="live ? 'bg-plum-wash text-plum' : 'bg-sky-wash text-sky'"
    >{{ initials }}</span
  >
</template>
