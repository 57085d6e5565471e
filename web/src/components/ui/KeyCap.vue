<script setup lang="ts">
defineProps<{ keys: string }>()
</script>

<template>
  <kbd
    aria-hidden="true"
    class="hidden rounded-[3px] border border-current px-1 py-px font-sans text-[11px] leading-tight font-semibold opacity-70 md:inline-block"
    >{{ keys }}</kbd
  >
</template>
