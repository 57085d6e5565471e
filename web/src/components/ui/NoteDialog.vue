<script setup lang="ts">
/** A team note, on several conversations at once. */
import { ref } from 'vue'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'

defineProps<{ title: string }>()
const emit = defineEmits<{ close: []; note: [text: string] }>()
const text = ref('')
</script>

<template>
  <AppDialog open :title="title" @close="emit('close')">
    <form @submit.prevent="text.trim() && emit('note', text.trim())">
      <label class="block text-xs font-semibold text-honey" for="note-all">Only we can read this</label>
      <textarea
        id="note-all"
        v-model="text"
        rows="3"
        maxlength="4000"
        required
        class="mt-1 w-full rounded border border-honey-line bg-honey-wash p-2 text-honey-ink" />
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit">Add the note</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
