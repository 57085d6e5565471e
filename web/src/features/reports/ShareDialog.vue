<script setup lang="ts">
/** A report for those who have no account: what is shown, for how long, and when it is mailed; and the links there are. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { SharedReport } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { WEEKDAYS } from '@/lib/reports'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{ query: string }>()
const emit = defineEmits<{ close: [] }>()
const PARTS = [
  ['days', 'Day by day'],
  ['spread', 'How long first answers took'],
  ['kind', 'By kind'],
  ['account', 'By account, with its name'],
  ['tag', 'By tag, with its name'],
  ['member', 'By member, with their names'],
] as const
const session = useSession()
const path = { workspace_id: session.workspaceId }
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const {
  data: shared,
  refetch,
  ask,
} = useAsk<SharedReport[]>('The shared reports', {
  key: () => ['shared-reports', session.workspaceId],
  // How often one was opened changes without notice.
  staleTime: 0,
  query: () => take(api.GET('/api/workspaces/{workspace_id}/shared-reports', { params: { path } })),
})
const name = ref('')
const parts = ref<string[]>(['days'])
const days = ref(30)
const every = ref<'' | 'week' | 'month'>('')
const day = ref(0)
const hour = ref(8)
const to = ref('')
const said = ref('')
const { problem, attempt: tryTo } = useAttempt(refetch)
async function attempt(work: () => Promise<unknown>, words: string): Promise<boolean> {
  said.value = ''
  const isDone = await tryTo(work)
  if (isDone) said.value = words
  return isDone
}
async function share(): Promise<void> {
  const body = {
    name: name.value,
    query: props.query,
    parts: parts.value,
    days: days.value,
    mail_to: every.value ? to.value.split(/[\s,;]+/).filter(Boolean) : [],
    mailing: every.value ? { every: every.value, day: day.value, hour: hour.value } : null,
  }
  const done = await attempt(
    () => take(api.POST('/api/workspaces/{workspace_id}/shared-reports', { params: { path }, body })),
    'Shared. Its link stands below; whoever has it can open it.',
  )
  if (done) name.value = ''
}
const revoke = (one: SharedReport): Promise<boolean> =>
  attempt(
    () =>
      take(
        api.DELETE('/api/workspaces/{workspace_id}/shared-reports/{shared_id}', {
          params: { path: { ...path, shared_id: one.id } },
        }),
      ),
    `The link to ${one.name} leads nowhere from now on.`,
  )
async function copy(one: SharedReport): Promise<void> {
  try {
    await navigator.clipboard.writeText(one.address)
    said.value = 'Copied.'
  } catch {
    problem.value = 'The browser does not let Sorta copy. Mark the link and copy it.'
  }
}
const sayMailing = (one: SharedReport): string =>
  one.mail_every
    ? `mailed every ${one.mail_every} to ${one.mail_to.join(', ')}, next ${sayTime(one.mail_next_at ?? '', zone.value)}`
    : ''
const field = 'rounded border border-rule bg-raised px-2 py-1'
</script>

<template>
  <AppDialog open wide title="Share this report by a link" @close="emit('close')">
    <form class="space-y-3 text-[0.84375rem]" @submit.prevent="share">
      <p class="text-[0.8125rem] text-ink-2">
        Whoever has the link reads this report as it then stands, without signing in. The figures are always on it;
        names only where you choose them, and texts never.
      </p>
      <label class="block"
        ><span class="text-xs font-semibold text-ink-2">Its name, which stands on it</span
        ><input
          v-model="name"
          required
          maxlength="60"
          class="mt-0.5 block w-full"
          :class="field"
          data-test="share-name"
      /></label>
      <fieldset>
        <legend class="text-xs font-semibold text-ink-2">Shown besides the figures</legend>
        <div class="mt-0.5 grid gap-x-4 sm:grid-cols-2">
          <label v-for="[part, words] in PARTS" :key="part" class="flex items-center gap-2"
            ><input v-model="parts" type="checkbox" :value="part" class="accent-pine" />{{ words }}</label
          >
        </div>
      </fieldset>
      <div class="flex flex-wrap items-end gap-x-4 gap-y-2">
        <label
          ><span class="block text-xs font-semibold text-ink-2">The link leads here for</span
          ><select v-model.number="days" :class="field">
            <option v-for="n in [7, 30, 90, 366]" :key="n" :value="n">{{ n === 366 ? 'a year' : `${n} days` }}</option>
          </select></label
        >
        <label
          ><span class="block text-xs font-semibold text-ink-2">Mailed</span
          ><select v-model="every" :class="field" data-test="share-every" @change="day = every === 'month' ? 1 : 0">
            <option value="">not at all</option>
            <option value="week">every week</option>
            <option value="month">every month</option>
          </select></label
        >
        <template v-if="every">
          <label
            ><span class="block text-xs font-semibold text-ink-2">on</span
            ><select v-model.number="day" :class="field">
              <template v-if="every === 'week'"
                ><option v-for="(word, n) in WEEKDAYS" :key="n" :value="n">{{ word }}</option></template
              ><template v-else
                ><option v-for="n in 28" :key="n" :value="n">the {{ n }}.</option></template
              >
            </select></label
          >
          <label
            ><span class="block text-xs font-semibold text-ink-2">at</span
            ><select v-model.number="hour" :class="field">
              <option v-for="n in 24" :key="n" :value="n - 1">{{ n - 1 }}:00</option>
            </select></label
          >
        </template>
      </div>
      <label v-if="every" class="block"
        ><span class="text-xs font-semibold text-ink-2"
          >To: members, or addresses at the domains that Setup lists under Outside advice</span
        ><input v-model="to" required class="mt-0.5 block w-full" :class="field" data-test="share-to"
      /></label>
      <p v-if="problem" role="alert" class="text-brick" data-test="share-problem">{{ problem }}</p>
      <p v-else role="status" class="text-ink-2">{{ said }}</p>
      <div class="flex justify-end gap-2">
        <UiButton @click="emit('close')">Close</UiButton>
        <UiButton kind="main" type="submit" data-test="share">Share</UiButton>
      </div>
    </form>
    <h3 class="mt-4 border-t border-rule pt-3 font-name text-[0.9375rem] font-bold">What is shared</h3>
    <LoadState :of="ask">
      <ul v-if="shared" class="text-[0.8125rem]" data-test="shared">
        <li v-for="one in shared" :key="one.id" class="border-b border-rule-soft py-2" :data-shared="one.id">
          <div class="flex items-baseline gap-2">
            <b class="min-w-0 flex-1">{{ one.name }}</b>
            <template v-if="!one.is_over"
              ><button type="button" class="font-semibold text-pine underline" @click="copy(one)">Copy link</button
              ><button type="button" class="font-semibold text-brick underline" @click="revoke(one)">
                Take back
              </button></template
            ><span v-else class="text-ink-2">leads nowhere any more</span>
          </div>
          <a
            v-if="!one.is_over"
            :href="one.address"
            target="_blank"
            rel="noreferrer"
            class="block truncate text-ink-2 underline"
            >{{ one.address }}</a
          >
          <p class="text-xs text-ink-2">
            By {{ one.maker }}, until {{ sayTime(one.expires_at, zone) }}; opened {{ one.opened }}
            {{ one.opened === 1 ? 'time' : 'times' }}{{ one.opened_at ? `, last ${sayTime(one.opened_at, zone)}` : ''
            }}{{ one.mail_every ? `; ${sayMailing(one)}` : '' }}
          </p>
          <p v-if="!one.may_still" class="text-xs font-semibold text-honey">
            It leads nowhere: {{ one.maker }} may not share reports any more.
          </p>
          <p v-if="one.mail_problem" class="text-xs font-semibold text-brick">Not mailed: {{ one.mail_problem }}</p>
        </li>
        <li v-if="!shared.length" class="py-2 text-ink-2">Nothing yet.</li>
      </ul>
    </LoadState>
  </AppDialog>
</template>
