<script setup lang="ts">
/** What was said before an account was connected: over how many days it is read, what becomes of it, and how far that is. */
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, take } from '@/api/client'
import type { Account, EarlierRun } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; account: Account; zone: string }>()
const emit = defineEmits<{ close: [] }>()
const path = { workspace_id: props.workspaceId, account_id: props.account.id }
const PATH = '/api/workspaces/{workspace_id}/accounts/{account_id}/earlier' as const
const {
  data: runs,
  ask,
  refetch,
} = useAsk<EarlierRun[]>('Earlier messages', {
  key: () => ['earlier', props.workspaceId, props.account.id],
  query: () => take(api.GET(PATH, { params: { path } })),
  staleTime: 0,
})
const running = computed(() => runs.value?.find((r) => r.state === 'waiting'))
let timer = 0
onMounted(() => (timer = window.setInterval(() => running.value && void refetch(), 2000)))
onBeforeUnmount(() => window.clearInterval(timer))
const { problem, isBusy, attempt } = useAttempt(refetch)
const days = ref(30)
const staysOpen = ref(true)
const start = (): Promise<boolean> =>
  attempt(() => take(api.POST(PATH, { params: { path }, body: { days: days.value, stays_open: staysOpen.value } })))
const stop = (run: EarlierRun): Promise<boolean> =>
  attempt(() => take(api.DELETE(`${PATH}/{run_id}`, { params: { path: { ...path, run_id: run.id } } })))
const share = (run: EarlierRun): number =>
  run.expected ? Math.min(100, Math.round((100 * run.seen) / run.expected)) : 0
const sayFar = (run: EarlierRun): string =>
  `${run.seen.toLocaleString('en')}${run.expected === null ? '' : ` of ${run.expected.toLocaleString('en')}`} looked at, ${run.taken.toLocaleString('en')} ${run.taken === 1 ? 'message' : 'messages'} new`
const ENDS = { waiting: 'Reading', done: 'Read', stopped: 'Stopped' }
const CHOICES: [number, string][] = [
  [7, '7 days'],
  [30, '30 days'],
  [90, '90 days'],
  [365, 'a year'],
  [1095, 'three years'],
]
</script>

<template>
  <AppDialog open :title="`Earlier messages of ${account.name} on ${account.network_name}`" @close="emit('close')">
    <LoadState :of="ask" :lines="3">
      <div class="text-[0.84375rem]" data-test="earlier">
        <form v-if="!running" @submit.prevent="start">
          <label class="flex items-center gap-2"
            >Read what was said in the last
            <select
              v-model.number="days"
              class="rounded border border-rule bg-raised px-2 py-1"
              data-test="earlier-days">
              <option v-for="[n, words] in CHOICES" :key="n" :value="n">{{ words }}</option>
            </select></label
          >
          <fieldset class="mt-3 grid gap-1.5">
            <legend class="sr-only">What becomes of it</legend>
            <label class="flex items-baseline gap-2"
              ><input v-model="staysOpen" type="radio" class="accent-pine" :value="true" />What has no answer waits for
              us</label
            >
            <label class="flex items-baseline gap-2"
              ><input v-model="staysOpen" type="radio" class="accent-pine" :value="false" />All of it is settled, to be
              found</label
            >
          </fieldset>
          <p class="mt-2 text-[0.8125rem] text-ink-2">
            No rule reads it, and nothing is answered by itself. What is here already stays as it is.
          </p>
          <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
          <div class="mt-4 flex justify-end gap-2">
            <UiButton @click="emit('close')">Close</UiButton>
            <UiButton kind="main" type="submit" :disabled="isBusy">Read it</UiButton>
          </div>
        </form>
        <ul v-if="runs?.length" :class="running ? '' : 'mt-4 border-t border-rule-soft pt-2'">
          <li v-for="run in runs" :key="run.id" class="py-1.5" data-test="earlier-run">
            <p class="flex items-baseline gap-2">
              <b>{{ ENDS[run.state] }}</b> {{ sayTime(run.since, zone) }} to {{ sayTime(run.until, zone) }}
              <button v-if="run.state === 'waiting'" type="button" class="ml-auto underline" @click="stop(run)">
                Stop
              </button>
            </p>
            <p
              v-if="run.state === 'waiting' && run.expected"
              class="my-1 h-1.5 rounded bg-fold"
              role="progressbar"
              aria-label="How far it is"
              :aria-valuenow="share(run)"
              aria-valuemin="0"
              aria-valuemax="100">
              <i class="block h-1.5 rounded bg-pine" :style="{ width: `${share(run)}%` }" />
            </p>
            <p class="text-[0.8125rem] text-ink-2">{{ sayFar(run) }}</p>
            <p v-if="run.problem && run.state === 'waiting'" class="text-[0.8125rem] text-honey-ink">
              It is tried again by itself: {{ run.problem }}
            </p>
          </li>
        </ul>
        <div v-if="running" class="mt-3 flex justify-end">
          <p class="mr-auto text-[0.8125rem] text-ink-2">It goes on when this is closed.</p>
          <UiButton @click="emit('close')">Close</UiButton>
        </div>
      </div>
    </LoadState>
  </AppDialog>
</template>
