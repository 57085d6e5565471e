<script setup lang="ts">
/** Saved replies by name, shortcut or words; what speaks for a suggested one stands beside it. */
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel } from '@headlessui/vue'
import { computed, ref } from 'vue'
import { useFocusBack } from '@/composables/useFocusBack'
import { useKeys } from '@/composables/useKeys'
import type { OfferedReply } from '@/api/types'
import { hasWords, listWanted } from '@/lib/savedReplies'

const props = defineProps<{ offered: OfferedReply[] }>()
const emit = defineEmits<{ close: []; pick: [one: OfferedReply] }>()
const words = ref('')
useFocusBack()
const panel = ref<{ $el: HTMLElement } | null>(null)
useKeys({ Escape: () => emit('close') }, () => panel.value?.$el)
const found = computed(() => {
  const wanted = listWanted(words.value)
  // A shortcut typed in full is what is meant.
  return props.offered
    .filter((o) => hasWords(o, wanted))
    .sort((a, b) => Number(b.shortcut === wanted[0]) - Number(a.shortcut === wanted[0]))
})
function pick(one: OfferedReply | null): void {
  if (one) emit('pick', one)
}
const sayUse = (o: OfferedReply): string =>
  o.uses ? `used ${o.uses === 1 ? 'once' : `${o.uses} times`}` : 'not used yet'
</script>

<template>
  <Dialog open aria-label="Saved replies" class="relative z-40" @close="emit('close')">
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
            placeholder="A saved reply: its name, shortcut or words …"
            aria-label="Find a saved reply"
            autocomplete="off"
            data-test="find-reply"
            @change="words = $event.target.value" />
          <p v-if="!found.length" class="px-4 py-6 text-center text-ink-2">
            {{
              offered.length
                ? 'No saved reply here has all of these words.'
                : 'No saved reply fits this conversation yet. They are written in Setup.'
            }}
          </p>
          <ComboboxOptions static data-inline class="scroll-quiet overflow-y-auto py-1">
            <ComboboxOption v-for="(o, n) in found" :key="o.id" v-slot="{ active }" :value="o" as="template">
              <li
                class="cursor-pointer border-b border-rule-soft px-4 py-2 last:border-0"
                :class="active || (!open && n === 0) ? 'bg-pine-wash' : ''"
                data-test="offered">
                <p class="flex items-baseline gap-3">
                  <b>{{ o.name }}</b><code v-if="o.shortcut" class="text-xs text-ink-2">/{{ o.shortcut }}</code
                  ><span class="ml-auto text-xs whitespace-nowrap text-ink-2">{{ sayUse(o) }}</span>
                </p>
                <p class="line-clamp-2 text-[0.8125rem] text-ink-2" dir="auto">{{ o.text }}</p>
                <p v-if="o.suggestion" class="mt-0.5 truncate text-xs text-sky">
                  Fits {{ o.suggestion.fits }}: answered “{{ o.suggestion.like }}” ({{
                    Math.round(o.suggestion.likeness * 100)
                  }}
                  % like this), {{ o.suggestion.times === 1 ? 'once' : `${o.suggestion.times} times in all` }}
                </p>
              </li>
            </ComboboxOption>
          </ComboboxOptions>
        </Combobox>
      </DialogPanel>
    </div>
  </Dialog>
</template>
