<script setup lang="ts">
/** Recovery codes, which are shown this once. */
defineProps<{ codes: string[] }>()
</script>

<template>
  <div class="mb-3 rounded-md border border-honey-line bg-honey-wash p-3 text-honey-ink">
    <p role="status" class="mb-2 font-semibold">
      Keep these recovery codes where you find them without your phone. Each works once; they are not shown again.
    </p>
    <ul class="grid grid-cols-2 gap-x-6 font-mono text-[0.8125rem]" data-test="recovery-codes">
      <li v-for="one in codes" :key="one">{{ one }}</li>
    </ul>
  </div>
</template>
