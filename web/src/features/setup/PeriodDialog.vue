<script setup lang="ts">
/** How long a kind of things is kept, with what would go before it is kept so. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { Clock, PeriodPreview } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'

const props = defineProps<{ workspaceId: number; period: Clock['periods'][number] }>()
const emit = defineEmits<{ close: []; changed: [] }>()
const path = { workspace_id: props.workspaceId, name: props.period.name }
const isForGood = ref(props.period.days === null)
const days = ref(props.period.days ?? 730)
const wanted = computed(() => (isForGood.value ? null : Math.round(days.value)))
const fits = computed(() => wanted.value === null || (wanted.value >= 1 && wanted.value <= 36500))
const {
  data: seen,
  ask,
  refetch,
} = useAsk<PeriodPreview>('What would go', {
  key: () => ['period', props.workspaceId, props.period.name, String(wanted.value)],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/periods/{name}/preview', {
        params: { path, query: wanted.value === null ? {} : { days: wanted.value } },
      }),
    ),
  enabled: () => fits.value,
  staleTime: 0,
})
const { problem, isBusy, attempt } = useAttempt()
async function save(): Promise<void> {
  if (!fits.value || isBusy.value) return
  const body = { days: wanted.value }
  const url = '/api/workspaces/{workspace_id}/periods/{name}' as const
  if (await attempt(() => take(api.PUT(url, { params: { path }, body })))) emit('changed')
  else await refetch()
}
</script>

<template>
  <AppDialog open title="How long it is kept" @close="emit('close')">
    <form class="text-[0.84375rem]" data-test="period-dialog" @submit.prevent="save">
      <p class="mb-3">{{ period.says }}</p>
      <label class="flex items-center gap-2"
        ><input v-model="isForGood" type="radio" class="accent-pine" :value="true" />For good</label
      >
      <label class="mt-1.5 flex items-center gap-2"
        ><input v-model="isForGood" type="radio" class="accent-pine" :value="false" />For
        <input
          v-model.number="days"
          type="number"
          min="1"
          max="36500"
          class="w-24 rounded border border-rule bg-raised px-2 py-1"
          aria-label="Days"
          @focus="isForGood = false" />
        days<span v-if="period.usual !== null" class="text-ink-2">, usually {{ period.usual }}</span></label
      >
      <p v-if="!fits" role="alert" class="mt-2 text-brick">Choose from 1 to 36,500 days.</p>
      <LoadState v-else :of="ask" :lines="1">
        <p v-if="seen" class="mt-3 rounded bg-fold px-3 py-2" role="status" data-test="would-go">
          <template v-if="!seen.count">Nothing would go now.</template
          ><template v-else
            ><b>{{ seen.more ? `More than ${seen.count.toLocaleString('en')}` : seen.count.toLocaleString('en') }}</b>
            of them would go, for good, beginning within the hour.</template
          >
        </p>
      </LoadState>
      <p v-if="period.name === 'people'" class="mt-2 text-[0.8125rem] text-ink-2">
        Nobody goes with whom something is open. Figures of reports stay as they are.
      </p>
      <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
      <div class="mt-4 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit" :disabled="!fits || isBusy || !seen">Keep it so</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
