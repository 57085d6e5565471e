<script setup lang="ts">
/** Support desks: their names, and how far apart messages still join one case. */
import { computed, ref, watch } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Directory } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import NewSecret from '@/features/setup/NewSecret.vue'

const props = defineProps<{ workspaceId: number; mayManage: boolean; zone: string }>()
const { directory, refetchDirectory } = useDirectory()
const shown = ref<Directory['desks']>([])
const problem = ref<{ id: number; words: string } | null>(null)
const saved = ref<number | null>(null)
const signing = ref<Directory['desks'][number] | null>(null)
const signingOf = computed(
  () => signing.value && { kind: 'desk' as const, id: signing.value.id, name: signing.value.name },
)
watch(
  () => directory.value?.desks,
  (desks) => (shown.value = (desks ?? []).map((d) => ({ ...d }))),
  { immediate: true },
)
async function save(desk: Directory['desks'][number]): Promise<void> {
  try {
    problem.value = null
    await take(
      api.PUT('/api/workspaces/{workspace_id}/desks/{desk_id}', {
        params: { path: { workspace_id: props.workspaceId, desk_id: desk.id } },
        body: { name: desk.name, follow_hours: desk.follow_hours },
      }),
    )
    saved.value = desk.id
    await refetchDirectory()
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    problem.value = { id: desk.id, words: error.message }
  }
}
const field = 'rounded border border-rule bg-raised px-1.5 py-0.5'
</script>

<template>
  <section v-if="shown.length" id="desks" class="mb-8 scroll-mt-4" aria-labelledby="desks-title" data-test="desks">
    <h2 id="desks-title" class="mb-2 font-name text-lg font-bold">Support desks</h2>
    <form
      v-for="desk in shown"
      :key="desk.id"
      class="flex flex-wrap items-center gap-2 rounded-md border border-rule bg-sheet px-4 py-2 text-[0.8125rem]"
      @submit.prevent="save(desk)">
      <input
        v-model="desk.name"
        required
        maxlength="80"
        :disabled="!mayManage"
        :class="[field, 'w-48 font-semibold']"
        aria-label="Name of the desk" />
      <label class="flex items-center gap-1.5"
        >What they write within
        <input
          v-model.number="desk.follow_hours"
          type="number"
          min="0"
          max="1440"
          required
          :disabled="!mayManage"
          :class="[field, 'w-20']" />
        hours joins the same case</label
      >
      <button v-if="mayManage" type="submit" class="ml-auto rounded bg-pine px-3 py-1 font-bold text-on-pine">
        Save
      </button>
      <button
        v-if="mayManage"
        type="button"
        class="rounded border border-rule bg-raised px-2.5 py-1 font-semibold whitespace-nowrap hover:bg-fold"
        @click="signing = desk">
        New signing secret
      </button>
      <span v-if="saved === desk.id && !problem" role="status" class="text-pine">Saved</span>
      <span v-if="problem?.id === desk.id" role="alert" class="text-brick">{{ problem.words }}</span>
    </form>
    <NewSecret :workspace-id="workspaceId" :zone="zone" :of="signingOf" @close="signing = null" />
  </section>
</template>
