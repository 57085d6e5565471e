<script setup lang="ts">
/** Rules to begin with, to be chosen. */
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import type { ReadyRule } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'

const props = defineProps<{ workspaceId: number }>()
const emit = defineEmits<{ added: [] }>()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, ask, refetch } = useAsk<ReadyRule[]>('Rules to begin with', {
  key: () => ['ready-rules', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/ready-rules', { params: { path: path.value } })),
  staleTime: 0,
})
const chosen = ref<string[]>([])
const { problem, attempt } = useAttempt(refetch)
const said = ref('')
const add = (): Promise<boolean> =>
  attempt(async () => {
    said.value = ''
    const { count } = await take(
      api.POST('/api/workspaces/{workspace_id}/ready-rules', {
        params: { path: path.value },
        body: { keys: chosen.value },
      }),
    )
    said.value = count === 1 ? 'One rule is added, and on.' : `${count} rules are added, and on.`
    chosen.value = []
    emit('added')
  })
</script>

<template>
  <section aria-labelledby="ready-title" data-test="ready-rules">
    <h2 id="ready-title" class="font-name text-lg font-bold">Rules to begin with</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      A rule sorts what comes in, and says why on each conversation. These put nothing outside. Change them, and write
      your own, in
      <RouterLink
        class="font-semibold text-pine underline"
        :to="{ name: 'rules', params: { workspace: String(workspaceId) } }"
        >Rules</RouterLink
      >.
    </p>
    <LoadState :of="ask" :lines="5">
      <form v-if="data" class="rounded-md border border-rule bg-sheet p-4" @submit.prevent="add">
        <label v-for="r in data" :key="r.key" class="mb-2 flex items-start gap-2.5">
          <input
            v-model="chosen"
            type="checkbox"
            class="mt-1 accent-pine"
            :value="r.key"
            :disabled="r.is_here"
            :data-test="`ready-${r.key}`" />
          <span
            ><b class="font-semibold">{{ r.name }}</b
            ><template v-if="r.is_here"> (here already)</template
            ><span class="block text-[0.8125rem] text-ink-2">{{ r.says }}</span></span
          >
        </label>
        <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick">{{ problem }}</p>
        <p v-if="said" role="status" class="mb-2 text-[0.8125rem]" data-test="ready-said">{{ said }}</p>
        <button
          type="submit"
          class="rounded bg-pine px-3 py-1 text-[0.8125rem] font-bold text-on-pine disabled:opacity-60"
          :disabled="!chosen.length">
          Add {{ chosen.length === 1 ? 'it' : 'them' }}
        </button>
      </form>
    </LoadState>
  </section>
</template>
