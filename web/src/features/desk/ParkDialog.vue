<script setup lang="ts">
import { ref } from 'vue'
import AppDialog from '@/components/ui/AppDialog.vue'

const emit = defineEmits<{ close: []; park: [until: string] }>()
const when = ref('')
const problem = ref('')

function park(): void {
  const at = new Date(when.value)
  if (Number.isNaN(at.getTime()) || at.getTime() <= Date.now()) problem.value = 'Choose a time that lies ahead.'
  else emit('park', at.toISOString())
}
</script>

<template>
  <AppDialog open title="Park until" @close="emit('close')">
    <form @submit.prevent="park">
      <label class="block text-xs font-semibold text-ink-2" for="park-until">Day and time on your clock</label>
      <input id="park-until" v-model="when" type="datetime-local" required class="mt-1 rounded border border-rule bg-raised px-2 py-1.5" />
      <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
      <p class="mt-2 text-xs text-ink-2">It comes back by itself then, or at once when they write again. The due keeps running.</p>
      <div class="mt-3 flex justify-end gap-2">
        <button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="emit('close')">Cancel</button>
        <button type="submit" class="rounded bg-pine px-3 py-1.5 font-bold text-on-pine">Park</button>
      </div>
    </form>
  </AppDialog>
</template>
