<script setup lang="ts">
/** How sure a reading must be; left open it is as sure as what the rule does takes. */
const sureness = defineModel<'likely' | 'sure' | null>({ required: true })
const take = (event: Event): void => {
  const value = (event.target as HTMLSelectElement).value
  sureness.value = value === 'likely' || value === 'sure' ? value : null
}
</script>

<template>
  <select
    class="rounded border border-rule bg-raised px-1.5 py-0.5"
    aria-label="How sure it must be"
    title="As needed: sure (90 %) where the rule answers, likes or hides, else likely (70 %)"
    :value="sureness ?? ''"
    @change="take">
    <option value="">as sure as needed</option>
    <option value="likely">likely (70 %)</option>
    <option value="sure">sure (90 %)</option>
  </select>
</template>
