<script setup lang="ts" generic="T extends { id: number }">
/** A list that one narrows by words and chooses from; `found` is what the words leave. What is chosen goes into what is written. */
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel } from '@headlessui/vue'
import { ref } from 'vue'
import { useFocusBack } from '@/composables/useFocusBack'
import { useKeys } from '@/composables/useKeys'

/** `nothing` is said where the list is empty. */
defineProps<{ label: string; find: string; placeholder: string; found: T[]; nothing: string | null; test: string }>()
const emit = defineEmits<{ close: []; pick: [one: T] }>()
const words = defineModel<string>({ required: true })
useFocusBack()
const panel = ref<{ $el: HTMLElement } | null>(null)
useKeys({ Escape: () => emit('close') }, () => panel.value?.$el)
function pick(one: T | null): void {
  if (one) emit('pick', one)
}
</script>

<template>
  <Dialog open :aria-label="label" class="relative z-40" @close="emit('close')">
    <div class="fixed inset-0 bg-band/40" aria-hidden="true" />
    <div class="fixed inset-0 flex items-end justify-center p-4 pb-[8vh]">
      <DialogPanel
        ref="panel"
        class="flex max-h-[70vh] w-full max-w-2xl flex-col overflow-hidden rounded-lg border border-rule bg-sheet shadow-xl">
        <!-- Until one writes or walks the list Enter takes its first, which is what fits best. -->
        <Combobox
          v-slot="{ open }"
          as="form"
          class="flex min-h-0 flex-col"
          :model-value="null"
          @update:model-value="pick"
          @submit.prevent="pick(found[0] ?? null)">
          <ComboboxInput
            class="w-full border-b border-rule bg-raised px-4 py-2.5 text-[0.9375rem] focus:outline-none"
            :placeholder="placeholder"
            :aria-label="find"
            autocomplete="off"
            :data-test="`find-${test}`"
            @change="words = $event.target.value" />
          <slot name="state" />
          <p v-if="nothing !== null" class="px-4 py-6 text-center text-ink-2">{{ nothing }}</p>
          <ComboboxOptions static data-inline class="scroll-quiet overflow-y-auto py-1">
            <ComboboxOption v-for="(one, n) in found" :key="one.id" v-slot="{ active }" :value="one" as="template">
              <li
                class="cursor-pointer border-b border-rule-soft px-4 py-2 last:border-0"
                :class="active || (!open && n === 0) ? 'bg-pine-wash' : ''"
                data-test="offered">
                <slot :one="one" />
              </li>
            </ComboboxOption>
          </ComboboxOptions>
        </Combobox>
      </DialogPanel>
    </div>
  </Dialog>
</template>
