<script setup lang="ts">
/** What the workspace is called and is about; putting it away. */
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import type { AboutWorkspace } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { useSession } from '@/stores/session'

const props = defineProps<{ workspaceId: number }>()
const emit = defineEmits<{ saved: [] }>()
const session = useSession()
const router = useRouter()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, ask, refetch } = useAsk<AboutWorkspace>('The workspace', {
  key: () => ['about', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/about', { params: { path: path.value } })),
})
const name = ref('')
const description = ref('')
watch(
  data,
  (now) => {
    if (now) {
      name.value = now.name
      description.value = now.description
    }
  },
  { immediate: true },
)
const isOther = computed(
  () => data.value !== undefined && (name.value !== data.value.name || description.value !== data.value.description),
)
const { problem, attempt } = useAttempt()
const isAsking = ref(false)
const save = (): Promise<boolean> =>
  attempt(async () => {
    const body = { name: name.value, description: description.value }
    await take(api.PUT('/api/workspaces/{workspace_id}/about', { params: { path: path.value }, body }))
    await Promise.all([refetch(), session.renew()])
    emit('saved')
  })
const archive = (): Promise<boolean> =>
  attempt(async () => {
    await take(api.POST('/api/workspaces/{workspace_id}/archive', { params: { path: path.value } }))
    await session.renew()
    await router.push({ name: 'workspaces' })
  })
const button = 'rounded border border-rule bg-raised px-2.5 py-1 text-[13px] font-semibold hover:bg-fold'
</script>

<template>
  <section class="mb-8" aria-labelledby="about-title" data-test="about">
    <h2 id="about-title" class="scroll-mt-4 font-name text-lg font-bold">This workspace</h2>
    <LoadState :of="ask" :lines="3">
      <form v-if="data" class="rounded-md border border-rule bg-sheet p-4" @submit.prevent="save">
        <label class="block text-xs font-semibold text-ink-2"
          >What it is called<input
            v-model="name"
            required
            maxlength="60"
            :readonly="!data.is_owner"
            class="mt-1 mb-3 block w-full max-w-sm rounded border border-rule bg-raised px-2 py-1 text-[13.5px] font-normal text-ink"
            data-test="about-name"
        /></label>
        <label class="block text-xs font-semibold text-ink-2"
          >What it is about, for whoever comes new<textarea
            v-model="description"
            rows="2"
            maxlength="400"
            :readonly="!data.is_owner"
            class="mt-1 mb-3 block w-full rounded border border-rule bg-raised px-2 py-1 text-[13.5px] font-normal text-ink"
            data-test="about-description" />
        </label>
        <p v-if="problem" role="alert" class="mb-2 text-[13px] text-brick">{{ problem }}</p>
        <div v-if="data.is_owner" class="flex flex-wrap gap-2">
          <button
            type="submit"
            class="rounded bg-pine px-3 py-1 text-[13px] font-bold text-on-pine disabled:opacity-60"
            :disabled="!isOther">
            Save
          </button>
          <button type="button" :class="button" @click="isAsking = true">Put it away</button>
          <RouterLink :class="button" :to="{ name: 'start', params: { workspace: String(workspaceId) } }"
            >First steps</RouterLink
          >
          <RouterLink :class="button" :to="{ name: 'workspaces', query: { from: String(workspaceId) } }"
            >New workspace</RouterLink
          >
        </div>
      </form>
    </LoadState>
    <AppDialog v-if="isAsking" open :title="`Put ${data?.name ?? ''} away`" @close="isAsking = false">
      <p class="mb-2">
        Nobody opens it from then on; its accounts are not read, no rule and no clock runs in it, nothing leaves it. All
        that is in it is kept.
      </p>
      <p class="mb-3">
        An Owner can bring it back under Workspaces. What was to go out stays held then, until somebody lets it go.
      </p>
      <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }}</p>
      <div class="flex justify-end gap-2">
        <button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="isAsking = false">
          Cancel
        </button>
        <button type="button" class="rounded bg-brick px-3 py-1.5 font-bold text-sheet" @click="archive">
          Put it away
        </button>
      </div>
    </AppDialog>
  </section>
</template>
