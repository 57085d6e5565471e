<script setup lang="ts">
/** Files that go along, or went along, with an answer: pictures small, others by name. */
import { FileText, X } from '@lucide/vue'
import { sayBytes } from '@/lib/words'

/** `id` and `size` of what Sorta keeps itself. */
interface Shown {
  id?: number | null
  media_type: string
  url: string
  name: string
  size?: number | null
}
defineProps<{ files: Shown[]; coming?: string[]; mayRemove?: boolean }>()
defineEmits<{ remove: [file: Shown] }>()
/** Ours are served by Sorta; what a network serves is only linked to. */
const isShown = (f: Shown): boolean => f.id != null && f.media_type.startsWith('image/')
</script>

<template>
  <ul class="flex flex-wrap gap-1.5" aria-label="Files" data-test="files">
    <li
      v-for="f in files"
      :key="f.url"
      class="flex max-w-64 items-center gap-1.5 rounded border border-rule bg-sheet p-1 text-[0.8125rem]">
      <a :href="f.url" target="_blank" rel="noreferrer" class="flex min-w-0 items-center gap-1.5 hover:underline">
        <img
          v-if="isShown(f)"
          :src="f.url"
          :alt="`Picture ${f.name}`"
          class="size-9 shrink-0 rounded-sm bg-fold object-cover" />
        <FileText v-else :size="16" class="shrink-0 text-ink-2" aria-hidden="true" />
        <span class="min-w-0"
          ><span class="block truncate">{{ f.name }}</span
          ><span class="block text-xs text-ink-2">{{ f.size != null ? sayBytes(f.size) : f.media_type }}</span></span
        >
      </a>
      <button
        v-if="mayRemove"
        type="button"
        class="rounded p-0.5 hover:bg-fold"
        :aria-label="`Take ${f.name} away`"
        title="Take it away"
        @click="$emit('remove', f)">
        <X :size="14" aria-hidden="true" />
      </button>
    </li>
    <li v-for="name in coming ?? []" :key="name" class="self-center text-[0.8125rem] text-ink-2" role="status">
      Adding {{ name }} …
    </li>
  </ul>
</template>
