<script setup lang="ts">
/** Words, phrases and prefixes*, with commas between; kept as they are typed until one leaves the field. */
import { ref, watch } from 'vue'

const words = defineModel<string[]>({ required: true })
const typed = ref(words.value.join(', '))
watch(words, (now) => {
  if (read(typed.value).join() !== now.join()) typed.value = now.join(', ')
})
const read = (text: string): string[] =>
  text
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean)
</script>

<template>
  <input
    v-model="typed"
    class="min-w-56 flex-1 rounded border border-rule bg-raised px-1.5 py-0.5"
    placeholder="hurt, cut on, sick*"
    aria-label="Words, with commas between; a star ends a prefix"
    data-test="rule-words"
    @input="words = read(typed)" />
</template>
