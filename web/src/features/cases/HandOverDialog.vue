<script setup lang="ts">
/** Hand over to a desk, with a note for it. */
import { ref } from 'vue'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'

defineProps<{ desk: { id: number; name: string; follow_hours: number }; count: number }>()
const emit = defineEmits<{ close: []; hand: [note: string] }>()
const note = ref('')
</script>

<template>
  <AppDialog
    open
    :title="count === 1 ? `Hand over to ${desk.name}` : `Hand ${count} over to ${desk.name}`"
    @close="emit('close')">
    <form @submit.prevent="emit('hand', note)">
      <p class="text-[0.8125rem] text-ink-2">
        The whole conversation is passed on and settled here. What they write within {{ desk.follow_hours }} hours joins
        the same case.
      </p>
      <label class="mt-2 block text-xs font-semibold text-ink-2" for="desk-note"
        >What {{ desk.name }} should know (if you like)</label
      >
      <textarea
        id="desk-note"
        v-model="note"
        rows="3"
        maxlength="2000"
        spellcheck="true"
        class="mt-1 w-full rounded border border-rule bg-raised p-2"
        data-test="desk-note" />
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit" data-test="hand-over">Hand over</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
