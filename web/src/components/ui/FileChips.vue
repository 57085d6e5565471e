<script
  setup
  lang="ts"
  generic="
    T extends {
      id?: number | null
      media_type: string
      url: string
      name: string
      size?: number | null
      description?: string
    }
  ">
/** Files that go along, or went along, with an answer: pictures small, others by name. `id` and `size` of what Sorta keeps itself. */
import { FileText, X } from '@lucide/vue'
import { sayBytes } from '@/lib/words'

/** `isWriting`: while they can still be taken away, and a picture told. */
defineProps<{ files: T[]; coming?: string[]; isWriting?: boolean }>()
const emit = defineEmits<{ remove: [file: T]; describe: [file: T, words: string] }>()
const isPicture = (f: T): boolean => f.media_type.startsWith('image/')
/** Ours are served by Sorta; what a network serves is only linked to. */
const isShown = (f: T): boolean => f.id != null && isPicture(f)
function onDescribed(file: T, event: Event): void {
  const words = (event.target as HTMLInputElement).value.trim()
  if (words !== (file.description ?? '')) emit('describe', file, words)
}
</script>

<template>
  <ul class="flex flex-wrap gap-1.5" aria-label="Files" data-test="files">
    <li
      v-for="f in files"
      :key="f.url"
      class="flex max-w-full items-center gap-1.5 rounded border border-rule bg-sheet p-1 text-[0.8125rem]"
      :class="isWriting && isPicture(f) ? 'w-96' : isWriting ? '' : 'sm:max-w-80'">
      <a :href="f.url" target="_blank" rel="noreferrer" class="flex min-w-0 items-center gap-1.5 hover:underline">
        <img
          v-if="isShown(f)"
          :src="f.url"
          :alt="f.description || `Picture ${f.name}`"
          class="size-9 shrink-0 rounded-sm bg-fold object-cover" />
        <FileText v-else :size="16" class="shrink-0 text-ink-2" aria-hidden="true" />
        <span class="min-w-0" :class="isWriting && isPicture(f) ? 'max-w-24' : ''"
          ><span class="block truncate" :title="f.name">{{ f.name }}</span
          ><span class="block truncate text-xs text-ink-2" :title="isWriting ? undefined : f.description">{{
            !isWriting && f.description ? `Shows: ${f.description}` : f.size != null ? sayBytes(f.size) : f.media_type
          }}</span></span
        >
      </a>
      <input
        v-if="isWriting && isPicture(f)"
        :value="f.description"
        maxlength="1000"
        class="min-w-0 flex-1 rounded border border-rule bg-raised px-1.5 py-1"
        placeholder="What it shows …"
        :aria-label="`What ${f.name} shows, for whoever cannot see it`"
        title="Goes along for whoever cannot see the picture"
        data-test="describe-file"
        @change="onDescribed(f, $event)" />
      <button
        v-if="isWriting"
        type="button"
        class="min-h-6 min-w-6 rounded p-1 hover:bg-fold"
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
