<script setup lang="ts">
/** How one wants to be told: by which ways of what, when not, and how mails are gathered. */
import { computed, ref, watch } from 'vue'
import { api, take } from '@/api/client'
import type { AlertChoices, AlertHabits, AlertWants } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import AlertMatrix from './AlertMatrix.vue'
import PhoneForm from './PhoneForm.vue'
import WatchList from './WatchList.vue'

const props = defineProps<{ workspaceId: number }>()
const path = { workspace_id: props.workspaceId }
const { data, ask, refetch } = useAsk<AlertChoices>('How you want to be told', {
  key: () => ['alert-choices', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/alerts/choices', { params: { path } })),
  staleTime: 0,
})
const { problem, attempt } = useAttempt(refetch)
const isOwn = computed(() => data.value?.choices.some((c) => c.is_own))
const quietFrom = ref('')
const quietUntil = ref('')
watch(
  data,
  (d) => {
    quietFrom.value = d?.habits.quiet_from?.slice(0, 5) ?? ''
    quietUntil.value = d?.habits.quiet_until?.slice(0, 5) ?? ''
  },
  { immediate: true },
)
const set = (occasion: string, wants: AlertWants): Promise<boolean> =>
  attempt(() =>
    take(
      api.PUT('/api/workspaces/{workspace_id}/alerts/choices/{occasion}', {
        params: { path: { ...path, occasion } },
        body: wants,
      }),
    ),
  )
const forget = (): Promise<boolean> =>
  attempt(() => take(api.DELETE('/api/workspaces/{workspace_id}/alerts/choices', { params: { path } })))
const keep = (habits: Partial<AlertHabits>): Promise<boolean> =>
  attempt(() =>
    take(
      api.PUT('/api/workspaces/{workspace_id}/alerts/habits', {
        params: { path },
        body: { digest: 'at_once', ...data.value?.habits, ...habits },
      }),
    ),
  )
/** Half of quiet hours is being written: kept when both are there, or neither. */
function keepQuiet(): void {
  const [from, until] = [quietFrom.value || null, quietUntil.value || null]
  if ((from === null) === (until === null)) void keep({ quiet_from: from, quiet_until: until })
}
function noQuiet(): void {
  quietFrom.value = quietUntil.value = ''
  keepQuiet()
}
const input = 'rounded border border-rule bg-raised px-1.5 py-0.5'
</script>

<template>
  <LoadState :of="ask" :lines="8">
    <div v-if="data" class="max-h-[62vh] scroll-quiet overflow-y-auto pr-1">
      <p v-if="problem" role="alert" class="mb-2 text-[0.84375rem] text-brick">{{ problem }}</p>
      <p v-if="data.mail_refused" class="mb-2 text-[0.84375rem] text-brick">
        Your mailbox refuses what is sent there: {{ data.mail_refused }}
      </p>
      <div class="mb-3 grid gap-2 border-b border-rule-soft pb-3 text-[0.84375rem]">
        <p class="flex flex-wrap items-center gap-2">
          Nothing disturbs me from
          <input v-model="quietFrom" type="time" :class="input" aria-label="Quiet from" @change="keepQuiet" />
          until
          <input v-model="quietUntil" type="time" :class="input" aria-label="Quiet until" @change="keepQuiet" />
          <button v-if="data.habits.quiet_from" type="button" class="underline" @click="noQuiet">No quiet hours</button>
        </p>
        <label v-if="data.can_mail" class="flex items-center gap-2"
          >Mails come
          <select
            :class="input"
            data-test="digest"
            :value="data.habits.digest"
            @change="keep({ digest: ($event.target as HTMLSelectElement).value as AlertHabits['digest'] })">
            <option value="at_once">at once</option>
            <option value="hourly">gathered, every hour</option>
            <option value="daily">gathered, once a day at 08:00</option>
          </select></label
        >
        <PhoneForm v-if="data.can_text" :phone="data.phone" :refused="data.text_refused" @changed="refetch" />
        <p class="text-xs text-ink-2">
          Times are the workspace’s. What comes in quiet hours stands here at once, and leaves by mail and text message
          when they are over. While you are away nothing leaves.
        </p>
      </div>
      <AlertMatrix
        :rows="data.choices"
        :can-mail="data.can_mail"
        :can-text="data.can_text && !!data.phone"
        @set="set" />
      <p v-if="isOwn" class="mt-1.5 text-[0.8125rem]">
        <button type="button" class="font-semibold text-pine underline" data-test="forget-choices" @click="forget">
          As everybody here
        </button>
      </p>
      <WatchList :workspace-id="workspaceId" :watches="data.watches" @changed="refetch" />
    </div>
  </LoadState>
</template>
