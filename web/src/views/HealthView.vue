<script setup lang="ts">
/** How well each account is connected: what came last and how late, what waits, what was refused; by hour of the last day. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import type { AccountHealth, AccountsHealth } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import { useAsk } from '@/composables/useAsk'
import { useClock } from '@/composables/useClock'
import NoReports from '@/features/reports/NoReports.vue'
import AppFrame from '@/features/frame/AppFrame.vue'
import { sayNumber, saySpan } from '@/lib/reports'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const HOUR = 3_600_000
const session = useSession()
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const { now } = useClock(30_000)
const { data: health, ask } = useAsk<AccountsHealth>("The accounts' health", {
  key: () => ['health', session.workspaceId, Math.floor(now.value / 60_000)],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/accounts/health', {
        params: { path: { workspace_id: session.workspaceId } },
      }),
    ),
  placeholderData: (before) => before,
  enabled: () => session.may('see_reports'),
})
const most = (a: AccountHealth): number => Math.max(1, ...a.hours.map((h) => h.came))
const clock = (n: number): string =>
  health.value ? sayTime(new Date(Date.parse(health.value.since) + n * HOUR).toISOString(), zone.value).slice(-5) : ''
const sayHour = (a: AccountHealth, n: number): string => {
  const hour = a.hours[n]
  if (!hour?.came) return `${clock(n)}: nothing`
  return `${clock(n)}: ${hour.came} came in, half within ${span(hour.lag_half)}, the last after ${span(hour.lag_worst)}`
}
const span = (seconds: number | null): string =>
  seconds === null ? '–' : seconds < 1 ? 'under a second' : seconds < 60 ? `${Math.round(seconds)} s` : saySpan(seconds)
const time = (at: string | null): string => (at ? sayTime(at, zone.value, now.value) : 'not in 90 days')
/** What is wrong with it, or that nothing is. */
function sayState(a: AccountHealth): { words: string; bad: boolean } {
  if (a.paused_reason) return { words: `paused: ${a.paused_reason}`, bad: true }
  if (a.silent_since) return { words: `does not answer since ${sayTime(a.silent_since, zone.value)}`, bad: true }
  if (a.disconnected_at) return { words: `disconnected since ${sayTime(a.disconnected_at, zone.value)}`, bad: false }
  if (!a.token_ends_at) return { words: 'connected', bad: false }
  const ends = sayTime(a.token_ends_at, zone.value)
  if (a.renews) return { words: `connected until ${ends}, renewed by itself before`, bad: false }
  return Date.parse(a.token_ends_at) - now.value < 7 * 24 * HOUR
    ? { words: `its network’s leave ends ${ends}: connect it again before`, bad: true }
    : { words: `connected until ${ends}`, bad: false }
}
</script>

<template>
  <AppFrame>
    <main class="min-h-0 flex-1 scroll-quiet overflow-y-auto p-4 md:p-6">
      <div class="mx-auto max-w-6xl">
        <h1 class="font-name text-2xl font-bold">Accounts’ health</h1>
        <p class="mb-3 max-w-3xl text-[0.8125rem] text-ink-2">
          The last 24 hours by the clock of {{ zone }}. How late something was, is the time from its being said on the
          network to its being here; what was filled in after a gap counts with its delay. An amber bar is an hour in
          which something was over 10 minutes late.
        </p>
        <NoReports v-if="!session.may('see_reports')" />
        <LoadState v-else :of="ask" :lines="7">
          <div
            v-if="health"
            class="scroll-quiet overflow-x-auto"
            tabindex="0"
            role="region"
            aria-label="Accounts and their last 24 hours">
            <table class="w-full text-[0.8125rem]" data-test="health">
              <thead>
                <tr
                  class="border-b border-rule text-left text-xs text-ink-2 [&>th]:py-1 [&>th]:pr-4 [&>th]:font-semibold">
                  <th scope="col">Account</th>
                  <th scope="col">Came in, by hour</th>
                  <th scope="col">Last came</th>
                  <th scope="col">Half here within</th>
                  <th scope="col">At worst after</th>
                  <th scope="col">Answers that wait</th>
                  <th scope="col">Refused</th>
                  <th scope="col">Kept aside</th>
                </tr>
              </thead>
              <tbody>
                <tr
                  v-for="a in health.accounts"
                  :key="a.account_id"
                  class="border-b border-rule-soft align-middle [&>td]:py-2 [&>td]:pr-4"
                  :data-health="a.account_id">
                  <th scope="row" class="py-2 pr-4 text-left font-normal">
                    <span class="flex items-center gap-2"
                      ><NetworkMark :letters="a.letters" :name="a.network_name" /><span
                        ><b class="block">{{ a.name }}</b
                        ><span
                          class="block max-w-64 text-xs"
                          :class="sayState(a).bad ? 'font-semibold text-brick' : 'text-ink-2'"
                          >{{ a.network_name }}, {{ sayState(a).words }}</span
                        ></span
                      ></span
                    >
                  </th>
                  <td>
                    <span class="flex h-8 items-end gap-px" aria-hidden="true"
                      ><i
                        v-for="(h, n) in a.hours"
                        :key="n"
                        class="block w-1.5"
                        :class="h.came ? ((h.lag_worst ?? 0) > 600 ? 'bg-honey' : 'bg-pine') : 'bg-rule'"
                        :style="{ height: h.came ? `${Math.max(12, (100 * h.came) / most(a))}%` : '2px' }"
                        :title="sayHour(a, n)" /></span
                    ><span class="text-xs text-ink-2">{{ sayNumber(a.came) }} since {{ clock(0) }}</span>
                    <ul class="sr-only">
                      <template v-for="(h, n) in a.hours" :key="n"
                        ><li v-if="h.came">{{ sayHour(a, n) }}</li></template
                      >
                    </ul>
                  </td>
                  <td class="whitespace-nowrap">{{ time(a.last_in_at) }}</td>
                  <td class="whitespace-nowrap">{{ span(a.lag_half) }}</td>
                  <td class="whitespace-nowrap" :class="(a.lag_worst ?? 0) > 600 ? 'font-semibold text-honey' : ''">
                    {{ span(a.lag_worst) }}
                  </td>
                  <td class="whitespace-nowrap">
                    <RouterLink
                      v-if="a.waiting"
                      class="font-semibold text-pine underline"
                      :to="{ name: 'outgoing', params: { workspace: String(session.workspaceId) } }"
                      >{{ a.waiting }} since {{ time(a.waiting_since) }}</RouterLink
                    ><template v-else>none</template>
                  </td>
                  <td :class="a.refused ? 'font-semibold text-brick' : ''">{{ a.refused || 'none' }}</td>
                  <td>
                    <RouterLink
                      v-if="a.aside && session.may('manage_accounts')"
                      class="font-semibold text-pine underline"
                      :to="{ name: 'setup', params: { workspace: String(session.workspaceId) }, hash: '#aside' }"
                      >{{ a.aside }}</RouterLink><template v-else>{{ a.aside || 'none' }}</template>
                  </td>
                </tr>
              </tbody>
            </table>
          </div>
          <p v-if="health && !health.accounts.length" class="py-6 text-ink-2">No account is connected.</p>
        </LoadState>
      </div>
    </main>
  </AppFrame>
</template>
