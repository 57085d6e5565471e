<script setup lang="ts">
/** What runs by itself: when each last worked, what went wrong, and what is kept for how long. */
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, take } from '@/api/client'
import type { Clock } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'
import PeriodDialog from './PeriodDialog.vue'

const props = defineProps<{ workspaceId: number; zone: string }>()
const { data, refetch, ask } = useAsk<Clock>('What runs by itself', {
  key: () => ['clock', props.workspaceId],
  query: () =>
    take(api.GET('/api/workspaces/{workspace_id}/clock', { params: { path: { workspace_id: props.workspaceId } } })),
})
const { byNetwork } = useDirectory()
const changing = ref<Clock['periods'][number] | null>(null)
async function changed(): Promise<void> {
  changing.value = null
  await refetch()
}
let timer = 0
onMounted(() => (timer = window.setInterval(() => void refetch(), 15_000)))
onBeforeUnmount(() => window.clearInterval(timer))

type Duty = Clock['duties'][number]
interface Line {
  duty: Duty
  /** Accounts that it is done for, all of them well; 0 when it is about the workspace or about one account. */
  accounts: number
}
/** What needs somebody first, each account by itself; what works, all accounts in a line. */
const lines = computed<Line[]>(() => {
  const found: Line[] = []
  for (const duty of data.value?.duties ?? []) {
    const same = duty.account_name && !duty.problem ? found.find((l) => l.accounts && l.duty.name === duty.name) : null
    if (same) same.accounts += 1
    else found.push({ duty, accounts: duty.account_name && !duty.problem ? 1 : 0 })
  }
  const rank = (l: Line): number => (l.duty.stands_still ? 0 : l.duty.problem ? 1 : 2)
  return found.sort((a, b) => rank(a) - rank(b))
})
function sayState(d: Duty): string {
  const when = d.succeeded_at ? `worked last ${sayTime(d.succeeded_at, props.zone)}` : 'has not worked yet'
  if (d.stands_still) return `Stands still; ${when}`
  return d.problem ? `Failed just now; ${when}` : when.charAt(0).toUpperCase() + when.slice(1)
}
const count = (n: number, word: string): string => `after ${n} ${word}${n === 1 ? '' : 's'}`
const sayDays = (days: number | null): string =>
  days === null
    ? 'never'
    : days === 0
      ? 'at once'
      : days < 1
        ? count(Math.round(days * 24), 'hour')
        : count(days, 'day')
</script>

<template>
  <section class="mb-8" aria-labelledby="clock-title">
    <h2 id="clock-title" class="font-name text-lg font-bold">What runs by itself</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Each is done again and again, whatever becomes of the others. Members who look after accounts are told when one
      stands still.
    </p>
    <LoadState :of="ask">
      <ul class="rounded-md border border-rule bg-sheet">
        <li
          v-for="{ duty: d, accounts } in lines"
          :key="`${d.name} ${d.network} ${d.account_name} ${accounts}`"
          class="flex flex-wrap items-baseline gap-x-3 border-b border-rule-soft px-4 py-2 last:border-0"
          data-test="duty">
          <b class="font-semibold">{{ d.says }}</b>
          <span v-if="accounts" class="text-ink-2">{{ accounts === 1 ? '1 account' : `${accounts} accounts` }}</span>
          <span v-else-if="d.network" class="text-ink-2"
            >{{ d.account_name }} on {{ byNetwork.get(d.network)?.name ?? d.network }}</span
          >
          <span
            class="ml-auto text-[0.8125rem]"
            :class="
              d.stands_still ? 'font-semibold text-brick' : d.problem ? 'font-semibold text-honey-ink' : 'text-ink-2'
            "
            >{{ sayState(d) }}</span
          >
          <p v-if="d.problem" class="basis-full text-[0.8125rem] text-ink-2">{{ d.problem }}</p>
        </li>
      </ul>
      <h3 class="mt-4 mb-1 text-[0.8125rem] font-semibold">What is swept away</h3>
      <ul class="grid gap-x-6 text-[0.8125rem] text-ink-2 sm:grid-cols-2" data-test="periods">
        <li v-for="p in data?.periods ?? []" :key="p.name" class="flex justify-between gap-3 py-0.5">
          <span>{{ p.says }}</span>
          <span class="whitespace-nowrap"
            >{{ sayDays(p.days)
            }}<button
              v-if="p.may_choose"
              type="button"
              class="ml-2 font-semibold text-pine underline"
              :aria-label="`Change how long it is kept: ${p.says}`"
              @click="changing = p">
              Change
            </button></span
          >
        </li>
      </ul>
      <p class="mt-1 text-[0.8125rem] text-ink-2">
        Who said when what kind of thing and how long it waited, cases and draws are kept for good, without words where
        the people are gone.
      </p>
      <PeriodDialog
        v-if="changing"
        :workspace-id="workspaceId"
        :period="changing"
        @close="changing = null"
        @changed="changed" />
    </LoadState>
  </section>
</template>
