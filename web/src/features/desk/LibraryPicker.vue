<script setup lang="ts">
/** The workspace's own files by name and by what they show; the one that is chosen goes along. */
import { FileText } from '@lucide/vue'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { LibraryFile } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { sayBytes } from '@/lib/words'
import WordPicker from './WordPicker.vue'

const props = defineProps<{ workspaceId: number }>()
defineEmits<{ close: []; pick: [one: LibraryFile] }>()
const { data, ask } = useAsk<LibraryFile[]>('The library', {
  key: () => ['library', props.workspaceId],
  query: () =>
    take(api.GET('/api/workspaces/{workspace_id}/library', { params: { path: { workspace_id: props.workspaceId } } })),
})
const words = ref('')
const found = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (data.value ?? []).filter((f) => {
    const said = `${f.name} ${f.description}`.toLowerCase()
    return wanted.every((w) => said.includes(w))
  })
})
const nothing = computed(() => {
  if (!data.value || found.value.length) return null
  return data.value.length
    ? 'Nothing in the library has all of these words.'
    : 'The library is empty yet. Pictures and files are put there in Setup.'
})
</script>

<template>
  <WordPicker
    v-model="words"
    label="Library"
    find="Find in the library"
    placeholder="A picture or a file: its name, or what it shows …"
    test="kept"
    data-test="library-picker"
    :found="found"
    :nothing="nothing"
    @close="$emit('close')"
    @pick="(one) => $emit('pick', one)">
    <template #state><LoadState :of="ask" /></template>
    <template #default="{ one: f }">
      <span class="flex items-center gap-3">
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
      </span>
    </template>
  </WordPicker>
</template>
