<script setup lang="ts">
/** Whether who works here has to sign in with a second step, and who has none yet. */
import { computed } from 'vue'
import { api, take } from '@/api/client'
import type { SecondNeeds } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import ProviderGroupList from './ProviderGroupList.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'

const props = defineProps<{ workspaceId: number }>()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, ask, refetch } = useAsk<SecondNeeds>('Signing in here', {
  key: () => ['second-needs', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/second-step', { params: { path: path.value } })),
  staleTime: 0,
})
const { problem, attempt } = useAttempt(refetch)
async function set(event: Event): Promise<void> {
  const box = event.target as HTMLInputElement
  const on = box.checked
  const body = { needs_second: on }
  const isSet = await attempt(() =>
    take(api.PUT('/api/workspaces/{workspace_id}/second-step', { params: { path: path.value }, body })),
  )
  if (!isSet) box.checked = !on
}
</script>

<template>
  <section id="signing-in" class="mb-8 scroll-mt-4" aria-labelledby="signing-in-title" data-test="second-needs">
    <h2 id="signing-in-title" class="font-name text-lg font-bold">Signing in</h2>
    <LoadState :of="ask" :lines="2">
      <template v-if="data">
        <label class="flex items-center gap-2">
          <input type="checkbox" class="accent-pine" :checked="data.needs_second" @change="set" />
          Everybody who works here signs in with a second step
        </label>
        <p v-if="problem" role="alert" class="mt-1 text-[0.8125rem] text-brick">
          {{ problem }}
          <RouterLink class="font-semibold underline" :to="{ name: 'account' }">Set it up</RouterLink>
        </p>
        <p class="mt-1 text-[0.8125rem] text-ink-2">
          <template v-if="!data.lacking.length">All who work here have one.</template
          ><template v-else
            >Without one: {{ data.lacking.join(', ') }}.
            {{ data.needs_second ? 'They' : 'If it is asked for, they' }} set one up before this workspace opens for
            them. It cannot be done for them.</template
          >
        </p>
      </template>
    </LoadState>
    <ProviderGroupList :workspace-id="workspaceId" />
  </section>
</template>
