<script setup lang="ts">
/** Where people outside can be asked by mail: a list of domains, one a line. */
import { ref, watch } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'

const props = defineProps<{ workspaceId: number; mayManage: boolean }>()
const path = { path: { workspace_id: props.workspaceId } }
const { data, refetch, ask } = useAsk<{ domains: string[] }>('Where people can be asked', {
  key: () => ['advice-domains', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/advice-domains', { params: path })),
})
const text = ref('')
const said = ref<string | null>(null)
const { problem, attempt } = useAttempt()
watch(
  data,
  (now) => {
    if (now) text.value = now.domains.join('\n')
  },
  { immediate: true },
)
async function save(): Promise<void> {
  said.value = null
  const domains = text.value.split(/[\s,;]+/).filter(Boolean)
  await attempt(async () => {
    await take(api.PUT('/api/workspaces/{workspace_id}/advice-domains', { params: path, body: { domains } }))
    said.value = 'Saved.'
    await refetch()
  })
}
</script>

<template>
  <section class="mb-8" aria-labelledby="domains-title">
    <h2 id="domains-title" class="font-name text-lg font-bold">Outside advice</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Members whose role may ask people outside can ask them at these mail domains, and nowhere else. The approval
      policies judge what they write.
    </p>
    <LoadState :of="ask" :lines="1">
      <form v-if="mayManage" class="rounded-md border border-rule bg-sheet px-4 py-3" @submit.prevent="save">
        <label class="block text-xs font-semibold text-ink-2" for="domains">Mail domains, one a line</label>
        <textarea
          id="domains"
          v-model="text"
          rows="3"
          spellcheck="false"
          class="mt-1 w-full rounded border border-rule bg-raised px-3 py-2"
          data-test="domains" />
        <p v-if="problem" role="alert" class="mt-1 text-brick">{{ problem }}</p>
        <div class="mt-2 flex items-center justify-end gap-3">
          <span v-if="said" role="status" class="text-[0.8125rem] text-ink-2">{{ said }}</span>
          <UiButton kind="main" type="submit" data-test="save-domains">Save</UiButton>
        </div>
      </form>
      <p v-else class="rounded-md border border-rule bg-sheet px-4 py-3">
        {{ data?.domains.length ? data.domains.join(', ') : 'None is listed: nobody outside can be asked.' }}
      </p>
    </LoadState>
  </section>
</template>
