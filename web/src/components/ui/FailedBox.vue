<script setup lang="ts">
/** What could not be loaded, why, what to do, and under what the server's log has it. Never looks like an empty list. */
defineProps<{ what: string; reason: string; reference?: string | null; isLine?: boolean }>()
defineEmits<{ retry: [] }>()
</script>

<template>
  <div
    role="alert"
    class="bg-brick-wash text-[0.8125rem] text-brick"
    :class="isLine ? 'px-4 py-1.5' : 'm-4 rounded border border-brick-line px-4 py-3'"
    data-test="failed">
    <p>
      <b>{{ what }} could not be loaded.</b> {{ reason }}
      <button type="button" class="ml-1 font-semibold underline" data-test="retry" @click="$emit('retry')">
        Try again
      </button>
    </p>
    <p v-if="reference" class="text-xs">Reference {{ reference }}</p>
  </div>
</template>
