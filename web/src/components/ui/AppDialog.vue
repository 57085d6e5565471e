<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { ref } from 'vue'
import { useFocusBack } from '@/composables/useFocusBack'
import { useKeys } from '@/composables/useKeys'

defineProps<{ open: boolean; title: string; wide?: boolean; initialFocus?: HTMLElement | null }>()
const emit = defineEmits<{ close: [] }>()
useFocusBack()
const panel = ref<{ $el: HTMLElement } | null>(null)
/** Whoever writes in a dialog sends what the dialog asks for, and nothing that lies below it. */
useKeys(
  {
    'ctrl+Enter': () => panel.value?.$el.querySelector('form')?.requestSubmit(),
    Escape: () => emit('close'),
  },
  () => panel.value?.$el,
)
</script>

<template>
  <Dialog :open="open" :initial-focus="initialFocus ?? null" class="relative z-40" @close="emit('close')">
    <div class="fixed inset-0 bg-band/40" aria-hidden="true" />
    <div class="fixed inset-0 flex items-start justify-center overflow-y-auto p-4 pt-[12vh]">
      <DialogPanel
        ref="panel"
        class="w-full rounded-lg border border-rule bg-sheet p-5 shadow-xl"
        :class="wide ? 'max-w-2xl' : 'max-w-md'">
        <DialogTitle class="mb-3 font-name text-lg font-bold">{{ title }}</DialogTitle>
        <slot />
      </DialogPanel>
    </div>
  </Dialog>
</template>
