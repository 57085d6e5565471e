<script setup lang="ts">
/** A field for a password that somebody chooses, with what it has to be. */
const password = defineModel<string>({ required: true })
defineProps<{ id: string; label: string; more?: string }>()
</script>

<template>
  <label class="block text-xs font-semibold text-ink-2" :for="id">{{ label }}</label>
  <input
    :id="id"
    v-model="password"
    type="password"
    required
    autocomplete="new-password"
    :aria-describedby="`${id}-hint`"
    class="mt-1 w-full rounded border border-rule bg-raised px-3 py-2" />
  <p :id="`${id}-hint`" class="mt-1 mb-3 text-xs text-ink-2">
    At least 10 characters. A few words that do not belong together are easy to keep and hard to guess. {{ more }}
  </p>
</template>
