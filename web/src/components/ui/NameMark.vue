<script setup lang="ts">
/** Sorta's name with its mark, over a page of its own. */
</script>

<template>
  <h1 class="mb-6 flex items-center gap-3 font-name text-3xl font-bold tracking-tight">
    <svg width="34" height="30" viewBox="0 0 20 18" aria-hidden="true">
      <rect y="1" width="20" height="4" fill="#d8a72f" />
      <rect y="7" width="13" height="4" fill="currentColor" />
      <rect y="13" width="7" height="4" class="fill-pine" />
    </svg>
    Sorta
  </h1>
</template>
