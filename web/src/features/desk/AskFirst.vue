<script setup lang="ts">
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'

defineProps<{ asking: { title: string; words: string; button: string; run: () => void } }>()
defineEmits<{ close: [] }>()
</script>

<template>
  <AppDialog open :title="asking.title" @close="$emit('close')">
    <p>{{ asking.words }}</p>
    <div class="mt-3 flex justify-end gap-2">
      <UiButton @click="$emit('close')">Leave it</UiButton>
      <UiButton kind="danger" data-test="confirm" @click="asking.run()">
        {{ asking.button }}
      </UiButton>
    </div>
  </AppDialog>
</template>
