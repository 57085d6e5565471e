<script setup lang="ts">
/** A team note, on several conversations at once. */
import { ref } from 'vue'
import AppDialog from '@/components/ui/AppDialog.vue'

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
        <button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="emit('close')">
          Cancel
        </button>
        <button type="submit" class="rounded bg-pine px-3 py-1.5 font-bold text-on-pine">Add the note</button>
      </div>
    </form>
  </AppDialog>
</template>
