<script setup lang="ts">
/** How members are told who have chosen nothing themselves. */
import { computed } from 'vue'
import { api, take } from '@/api/client'
import type { AlertChoices, AlertWants } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import AlertMatrix from '@/features/alerts/AlertMatrix.vue'

const props = defineProps<{ workspaceId: number }>()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, ask, refetch } = useAsk<AlertChoices>('How members are told', {
  key: () => ['alert-choices', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/alerts/choices', { params: { path: path.value } })),
  staleTime: 0,
})
const { problem, attempt } = useAttempt(refetch)
const set = (occasion: string, wants: AlertWants): Promise<boolean> =>
  attempt(() =>
    take(
      api.PUT('/api/workspaces/{workspace_id}/alerts/defaults/{occasion}', {
        params: { path: { ...path.value, occasion } },
        body: wants,
      }),
    ),
  )
</script>

<template>
  <section id="alerts" class="mb-8 scroll-mt-4" aria-labelledby="alerts-title" data-test="alert-defaults">
    <h2 id="alerts-title" class="font-name text-lg font-bold">Alerts</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      How whoever has chosen nothing is told. Everybody chooses for themselves behind the bell, with quiet hours of
      their own; text messages come to who has given a number.
    </p>
    <LoadState :of="ask" :lines="8">
      <div v-if="data" class="rounded-md border border-rule bg-sheet px-4 py-2">
        <p v-if="problem" role="alert" class="mb-1 text-[0.8125rem] text-brick">{{ problem }}</p>
        <AlertMatrix :rows="data.defaults" :can-mail="data.can_mail" :can-text="data.can_text" @set="set" />
      </div>
    </LoadState>
  </section>
</template>
