<script setup lang="ts">
/** The workspace's own pictures and files, to be sent along again and again; each picture with what it shows. */
import { FileText } from '@lucide/vue'
import { computed, nextTick, ref } from 'vue'
import { api, take } from '@/api/client'
import type { LibraryFile } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { sayBytes } from '@/lib/words'

const props = defineProps<{ workspaceId: number; mayManage: boolean }>()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, ask, refetch } = useAsk<LibraryFile[]>('The library', {
  key: () => ['library', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/library', { params: { path: path.value } })),
})
const { problem, isBusy, attempt } = useAttempt(refetch)
const chooser = ref<HTMLInputElement | null>(null)
const nameField = ref<HTMLInputElement | null>(null)
/** What is being added (`file`) or changed (`id`). */
const draft = ref<{ id: number | null; file: File | null; name: string; description: string } | null>(null)
const isPicture = (kind: string): boolean => kind.startsWith('image/')
const draftIsPicture = computed(() => {
  const d = draft.value
  return isPicture(d?.file?.type ?? data.value?.find((f) => f.id === d?.id)?.media_type ?? '')
})
async function begin(next: NonNullable<typeof draft.value>): Promise<void> {
  problem.value = ''
  draft.value = next
  await nextTick()
  nameField.value?.focus()
}
function onChosen(): void {
  const file = chooser.value?.files?.[0]
  if (file) void begin({ id: null, file, name: file.name, description: '' })
  if (chooser.value) chooser.value.value = ''
}
async function save(): Promise<void> {
  const d = draft.value
  if (!d) return
  const { name, description } = d
  const file = d.file
  const done = await attempt(() =>
    file
      ? take(
          api.POST('/api/workspaces/{workspace_id}/library', {
            params: { path: path.value, query: { name, description } },
            body: file as unknown as string,
            bodySerializer: (body) => body as unknown as BodyInit,
            headers: { 'Content-Type': file.type || 'application/octet-stream' },
          }),
        )
      : take(
          api.PUT('/api/workspaces/{workspace_id}/library/{library_id}', {
            params: { path: { ...path.value, library_id: d.id ?? 0 } },
            body: { name, description },
          }),
        ),
  )
  if (done) draft.value = null
}
const remove = (one: LibraryFile): Promise<boolean> =>
  attempt(() =>
    take(
      api.DELETE('/api/workspaces/{workspace_id}/library/{library_id}', {
        params: { path: { ...path.value, library_id: one.id } },
      }),
    ),
  )
</script>

<template>
  <section class="mb-8" aria-labelledby="library-title" data-test="library">
    <h2 id="library-title" class="font-name text-lg font-bold">Library</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Pictures and files that go along with answers again and again: a map, a price list, a seal that waves. Whoever
      writes finds them by their name and by what they show. What was sent stays when one is taken out here.
    </p>
    <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick" data-test="library-problem">
      {{ problem }}
    </p>
    <div class="rounded-md border border-rule bg-sheet px-4 py-2 text-[0.84375rem]">
      <LoadState :of="ask">
        <p v-if="!data?.length && !draft" class="py-1 text-ink-2">Nothing is here yet.</p>
        <ul>
          <li
            v-for="f in data"
            :key="f.id"
            class="flex items-center gap-3 border-b border-rule-soft py-1.5 last:border-0"
            data-test="library-file">
            <a :href="f.url" target="_blank" rel="noreferrer" class="flex min-w-0 items-center gap-3 hover:underline">
              <img
                v-if="isPicture(f.media_type)"
                :src="f.url"
                :alt="f.description"
                loading="lazy"
                class="size-10 shrink-0 rounded-sm bg-fold object-cover" />
              <FileText v-else :size="20" class="mx-2.5 shrink-0 text-ink-2" aria-hidden="true" />
              <span class="min-w-0">
                <b class="block truncate">{{ f.name }}</b>
                <span class="block truncate text-[0.8125rem] text-ink-2">{{ f.description || 'no description' }}</span>
              </span>
            </a>
            <span class="ml-auto text-xs whitespace-nowrap text-ink-2"
              >{{ sayBytes(f.size) }},
              {{ f.uses ? `sent ${f.uses === 1 ? 'once' : `${f.uses} times`}` : 'not sent yet' }}</span
            >
            <span v-if="mayManage" class="flex gap-3 text-[0.8125rem]">
              <button
                type="button"
                class="underline"
                :aria-label="`Change ${f.name}`"
                @click="begin({ id: f.id, file: null, name: f.name, description: f.description })">
                Change
              </button>
              <button type="button" class="underline" :aria-label="`Take out ${f.name}`" @click="remove(f)">
                Take out
              </button>
            </span>
          </li>
        </ul>
        <form
          v-if="draft"
          class="flex flex-wrap items-end gap-2 py-2 text-[0.8125rem]"
          data-test="library-form"
          @submit.prevent="save">
          <label class="flex flex-col"
            >Its name<input
              ref="nameField"
              v-model="draft.name"
              required
              maxlength="120"
              class="w-48 rounded border border-rule bg-raised px-2 py-1"
              data-test="library-name"
          /></label>
          <label class="flex min-w-64 flex-1 flex-col"
            >{{ draftIsPicture ? 'What it shows, for whoever cannot see it' : 'What it is about'
            }}<input
              v-model="draft.description"
              :required="draftIsPicture"
              maxlength="1000"
              class="rounded border border-rule bg-raised px-2 py-1"
              data-test="library-description"
          /></label>
          <button type="submit" class="rounded bg-pine px-3 py-1 font-bold text-on-pine" :disabled="isBusy">
            Keep
          </button>
          <button type="button" class="px-2 py-1 underline" @click="draft = null">Leave it</button>
        </form>
        <p v-if="mayManage && !draft" class="py-1">
          <button type="button" class="font-semibold text-pine hover:underline" @click="chooser?.click()">
            Add a picture or a file
          </button>
          <input
            ref="chooser"
            type="file"
            class="hidden"
            accept="image/jpeg,image/png,image/gif,image/webp,application/pdf,text/plain,text/csv"
            aria-label="A file for the library"
            data-test="library-choose"
            @change="onChosen" />
        </p>
      </LoadState>
    </div>
  </section>
</template>
