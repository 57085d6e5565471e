<script setup lang="ts">
/** A name for something that is kept, and whether everybody here can use it. */
import { ref } from 'vue'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'

defineProps<{ title: string; label: string; button: string; share?: boolean }>()
const emit = defineEmits<{ close: []; name: [name: string, shared: boolean] }>()
const name = ref('')
const shared = ref(false)
function submit(): void {
  const said = name.value.trim()
  if (said) emit('name', said, shared.value)
}
</script>

<template>
  <AppDialog open :title="title" @close="emit('close')">
    <form @submit.prevent="submit">
      <label class="block text-xs font-semibold text-ink-2" for="name">{{ label }}</label>
      <input
        id="name"
        v-model="name"
        maxlength="80"
        autocomplete="off"
        class="mt-1 w-full rounded border border-rule bg-raised px-2 py-1.5"
        data-test="name" />
      <label v-if="share" class="mt-2 flex items-center gap-2"
        ><input v-model="shared" type="checkbox" class="accent-pine" />Everybody here can use it</label
      >
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit">{{ button }}</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
