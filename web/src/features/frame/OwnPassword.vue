<script setup lang="ts">
/** One's password, asked for before what changes how one signs in; who has none is told when that is allowed. */
defineProps<{ hasPassword: boolean; test: string }>()
const password = defineModel<string>({ required: true })
const vFocus = { mounted: (field: HTMLElement): void => field.focus() }
</script>

<template>
  <label v-if="hasPassword" class="block text-xs font-semibold text-ink-2"
    >Your password, to be sure it is you<input
      v-model="password"
      type="password"
      required
      maxlength="1024"
      autocomplete="current-password"
      class="mt-1 mb-3 block w-full rounded border border-rule bg-raised px-3 py-2 text-sm font-normal text-ink"
      :data-test="test"
      v-focus
  /></label>
  <p v-else class="mb-3 text-[0.8125rem] text-ink-2">
    You have no password here: within ten minutes of coming in, this is allowed without one.
  </p>
</template>
