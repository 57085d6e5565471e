<script setup lang="ts">
/** The workspace's own files by name and by what they show; the one that is chosen goes along. */
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel } from '@headlessui/vue'
import { FileText } from '@lucide/vue'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { LibraryFile } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { useFocusBack } from '@/composables/useFocusBack'
import { useKeys } from '@/composables/useKeys'
import { sayBytes } from '@/lib/words'

const props = defineProps<{ workspaceId: number }>()
const emit = defineEmits<{ close: []; pick: [one: LibraryFile] }>()
const { data, ask } = useAsk<LibraryFile[]>('The library', {
  key: () => ['library', props.workspaceId],
  query: () =>
    take(api.GET('/api/workspaces/{workspace_id}/library', { params: { path: { workspace_id: props.workspaceId } } })),
})
const words = ref('')
useFocusBack()
const panel = ref<{ $el: HTMLElement } | null>(null)
useKeys({ Escape: () => emit('close') }, () => panel.value?.$el)
const found = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (data.value ?? []).filter((f) => {
    const said = `${f.name} ${f.description}`.toLowerCase()
    return wanted.every((w) => said.includes(w))
  })
})
function pick(one: LibraryFile | null): void {
  if (one) emit('pick', one)
}
</script>

<template>
  <Dialog open aria-label="Library" class="relative z-40" @close="emit('close')">
    <div class="fixed inset-0 bg-band/40" aria-hidden="true" />
    <div class="fixed inset-0 flex items-end justify-center p-4 pb-[8vh]">
      <DialogPanel
        ref="panel"
        class="flex max-h-[70vh] w-full max-w-2xl flex-col overflow-hidden rounded-lg border border-rule bg-sheet shadow-xl"
        data-test="library-picker">
        <Combobox
          v-slot="{ open }"
          as="form"
          class="flex min-h-0 flex-col"
          :model-value="null"
          @update:model-value="pick"
          @submit.prevent="pick(found[0] ?? null)">
          <ComboboxInput
            class="w-full border-b border-rule bg-raised px-4 py-2.5 text-[0.9375rem] focus:outline-none"
            placeholder="A picture or a file: its name, or what it shows …"
            aria-label="Find in the library"
            autocomplete="off"
            data-test="find-kept"
            @change="words = $event.target.value" />
          <LoadState :of="ask">
            <p v-if="!found.length" class="px-4 py-6 text-center text-ink-2">
              {{
                data?.length
                  ? 'Nothing in the library has all of these words.'
                  : 'The library is empty yet. Pictures and files are put there in Setup.'
              }}
            </p>
            <ComboboxOptions static data-inline class="scroll-quiet overflow-y-auto py-1">
              <ComboboxOption v-for="(f, n) in found" :key="f.id" v-slot="{ active }" :value="f" as="template">
                <li
                  class="flex cursor-pointer items-center gap-3 border-b border-rule-soft px-4 py-2 last:border-0"
                  :class="active || (!open && n === 0) ? 'bg-pine-wash' : ''"
                  data-test="kept-file">
                  <img
                    v-if="f.media_type.startsWith('image/')"
                    :src="f.url"
                    alt=""
                    loading="lazy"
                    class="size-12 shrink-0 rounded-sm bg-fold object-cover" />
                  <FileText v-else :size="24" class="mx-3 shrink-0 text-ink-2" aria-hidden="true" />
                  <span class="min-w-0">
                    <b class="block truncate">{{ f.name }}</b>
                    <span class="line-clamp-2 text-[0.8125rem] text-ink-2">{{ f.description }}</span>
                  </span>
                  <span class="ml-auto text-xs whitespace-nowrap text-ink-2">{{ sayBytes(f.size) }}</span>
                </li>
              </ComboboxOption>
            </ComboboxOptions>
          </LoadState>
        </Combobox>
      </DialogPanel>
    </div>
  </Dialog>
</template>
