<script setup lang="ts">
import AppDialog from '@/components/ui/AppDialog.vue'
import { KEY_WORDS } from '@/lib/keys'

defineProps<{ open: boolean }>()
defineEmits<{ close: [] }>()
</script>

<template>
  <AppDialog :open="open" title="Keys" wide @close="$emit('close')">
    <dl class="grid grid-cols-2 gap-x-8 gap-y-1.5">
      <div
        v-for="[keys, words] in KEY_WORDS"
        :key="keys"
        class="flex items-center justify-between border-b border-dotted border-rule pb-1">
        <dt>{{ words }}</dt>
        <dd>
          <kbd class="rounded border border-rule bg-raised px-1.5 py-0.5 text-xs font-semibold">{{ keys }}</kbd>
        </dd>
      </div>
    </dl>
    <p class="mt-3 text-xs text-ink-2">
      Single keys act on the open conversation while you are not writing. Escape steps back.
    </p>
    <button type="button" class="mt-3 rounded bg-pine px-3 py-1.5 font-bold text-on-pine" @click="$emit('close')">
      Close
    </button>
  </AppDialog>
</template>
