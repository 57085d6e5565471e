<script setup lang="ts">
/** Tags under their headings: made, renamed, retired, merged; what has each and what names it. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { UsedTag } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import MergeDialog from '@/features/setup/MergeDialog.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { useDirectory } from '@/composables/useDirectory'

const props = defineProps<{ workspaceId: number; mayManage: boolean }>()
const { refetchDirectory } = useDirectory()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const {
  data: tags,
  ask,
  refetch,
} = useAsk<UsedTag[]>('The tags', {
  key: () => ['tags', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/tags', { params: { path: path.value } })),
})
defineExpose({ refetch })
const { problem, isBusy, attempt } = useAttempt(() => Promise.all([refetch(), refetchDirectory()]))

const words = ref('')
const isShowingRetired = ref(false)
const retired = computed(() => (tags.value ?? []).filter((t) => t.retired && t.merged_into === null))
const shown = computed(() =>
  (tags.value ?? []).filter(
    (t) =>
      t.merged_into === null &&
      (!t.retired || isShowingRetired.value) &&
      `${t.heading} ${t.name}`.toLowerCase().includes(words.value.trim().toLowerCase()),
  ),
)
const headings = computed(() => [...new Set((tags.value ?? []).map((t) => t.heading).filter(Boolean))].sort())
/** Those with a heading first, by it; the rest under no name. */
const groups = computed(() =>
  [...headings.value, '']
    .map((heading) => ({ heading, tags: shown.value.filter((t) => t.heading === heading) }))
    .filter((g) => g.tags.length),
)
const FEW = 12
const draft = ref<{ id: number | null; name: string; heading: string } | null>(null)
const merging = ref<UsedTag | null>(null)
function begin(tag: UsedTag | null): void {
  problem.value = ''
  draft.value = { id: tag?.id ?? null, name: tag?.name ?? '', heading: tag?.heading ?? '' }
}
const put = (tag: UsedTag, body: { name: string; heading: string; retired: boolean }): Promise<boolean> =>
  attempt(() =>
    take(
      api.PUT('/api/workspaces/{workspace_id}/tags/{tag_id}', {
        params: { path: { ...path.value, tag_id: tag.id } },
        body,
      }),
    ),
  )
async function save(): Promise<void> {
  const d = draft.value
  if (!d) return
  const { name, heading } = d
  const tag = tags.value?.find((t) => t.id === d.id)
  const done = tag
    ? await put(tag, { name, heading, retired: tag.retired })
    : await attempt(() =>
        take(
          api.POST('/api/workspaces/{workspace_id}/tags', {
            params: { path: path.value },
            body: { name, heading },
          }),
        ),
      )
  if (done) draft.value = null
}
const retire = (tag: UsedTag, isRetired: boolean): Promise<boolean> =>
  put(tag, { name: tag.name, heading: tag.heading, retired: isRetired })
async function merge(into: number): Promise<void> {
  const tag = merging.value
  merging.value = null
  if (!tag) return
  await attempt(() =>
    take(
      api.POST('/api/workspaces/{workspace_id}/tags/{tag_id}/merge', {
        params: { path: { ...path.value, tag_id: tag.id } },
        body: { into },
      }),
    ),
  )
}
const says = (tag: UsedTag): string =>
  [
    tag.people ? `${tag.people} ${tag.people === 1 ? 'person' : 'people'}` : '',
    ...tag.named_by,
    !tag.conversations && !tag.people && !tag.named_by.length ? 'not used' : '',
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <section class="mb-8" aria-labelledby="tags-title" data-test="tags">
    <h2 id="tags-title" class="font-name text-lg font-bold">Tags</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      What conversations and people are filed under. A tag that is retired stays where it is and is offered no more; one
      that is merged becomes another everywhere.
    </p>
    <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick" data-test="tag-problem">{{ problem }}</p>
    <div class="rounded-md border border-rule bg-sheet px-4 py-2 text-[0.84375rem]">
      <LoadState :of="ask">
        <p v-if="(tags?.length ?? 0) > FEW" class="pb-1">
          <input
            v-model="words"
            type="search"
            class="w-64 max-w-full rounded border border-rule bg-raised px-2 py-1"
            placeholder="A tag or a heading"
            aria-label="Find a tag" />
        </p>
        <p v-if="!shown.length && !draft" class="py-1 text-ink-2">
          {{ words ? 'No tag is called so.' : 'No tags yet. They are made as one puts them on, or here.' }}
        </p>
        <template v-for="group in groups" :key="group.heading">
          <h3 v-if="headings.length" class="pt-2 text-xs font-semibold text-ink-2">
            {{ group.heading || 'Under no heading' }}
          </h3>
          <template v-for="tag in group.tags" :key="tag.id">
            <div
              v-if="draft?.id !== tag.id"
              class="flex flex-wrap items-baseline gap-x-3 border-b border-rule-soft py-1.5 last:border-0"
              data-test="tag-line">
              <b class="min-w-32 break-words" :class="tag.retired ? 'text-ink-2' : ''">{{ tag.name }}</b>
              <span class="min-w-0 flex-1 basis-64 text-[0.8125rem] text-ink-2"
                ><RouterLink
                  v-if="tag.conversations"
                  class="text-ink underline"
                  :to="{
                    name: 'desk',
                    params: { workspace: String(workspaceId) },
                    query: { move: 'any', tag: String(tag.id) },
                  }"
                  >{{ tag.conversations }} {{ tag.conversations === 1 ? 'conversation' : 'conversations' }},
                  {{ tag.open }} open</RouterLink
                ><template v-if="tag.conversations && says(tag)">, </template>{{ says(tag) }}</span
              >
              <span v-if="mayManage && !draft" class="flex gap-3 text-[0.8125rem]">
                <button type="button" class="underline" :aria-label="`Change ${tag.name}`" @click="begin(tag)">
                  Change
                </button>
                <button
                  v-if="!tag.retired"
                  type="button"
                  class="underline"
                  :aria-label="`Merge ${tag.name} into another`"
                  @click="merging = tag">
                  Merge …
                </button>
                <button
                  type="button"
                  class="underline"
                  :aria-label="tag.retired ? `Bring ${tag.name} back` : `Retire ${tag.name}`"
                  @click="retire(tag, !tag.retired)">
                  {{ tag.retired ? 'Bring back' : 'Retire' }}
                </button>
              </span>
            </div>
          </template>
        </template>
        <form v-if="draft" class="flex flex-wrap items-end gap-3 py-2" data-test="tag-form" @submit.prevent="save">
          <label class="text-xs font-semibold text-ink-2"
            >Name<input
              v-model="draft.name"
              required
              maxlength="40"
              class="mt-0.5 block w-56 rounded border border-rule bg-raised px-2 py-1 text-[0.84375rem] font-normal text-ink"
              data-test="tag-name" /></label
          ><label class="text-xs font-semibold text-ink-2"
            >Heading, if any<input
              v-model="draft.heading"
              list="tag-headings"
              maxlength="40"
              class="mt-0.5 block w-56 rounded border border-rule bg-raised px-2 py-1 text-[0.84375rem] font-normal text-ink"
              data-test="tag-heading"
          /></label>
          <datalist id="tag-headings"><option v-for="h in headings" :key="h" :value="h" /></datalist>
          <button
            type="submit"
            class="rounded bg-pine px-3 py-1 font-semibold text-on-pine disabled:opacity-60"
            :disabled="isBusy"
            data-test="save-tag">
            Save</button
          ><button type="button" class="px-2 py-1 underline" @click="draft = null">Cancel</button>
        </form>
      </LoadState>
    </div>
    <p class="mt-2 flex gap-4">
      <button
        v-if="mayManage && !draft"
        type="button"
        class="rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold"
        data-test="new-tag"
        @click="begin(null)">
        New tag
      </button>
      <label v-if="retired.length" class="flex items-center gap-1.5 text-[0.8125rem]"
        ><input v-model="isShowingRetired" type="checkbox" class="accent-pine" />Show
        {{ retired.length }} retired</label
      >
    </p>
    <MergeDialog
      v-if="merging"
      :tag="merging"
      :others="(tags ?? []).filter((t) => !t.retired && t.id !== merging?.id)"
      @close="merging = null"
      @merge="merge" />
  </section>
</template>
