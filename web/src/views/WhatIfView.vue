<script setup lang="ts">
/** What if: the last days played again with other people, hours, targets or rules. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { PlayedWhatIf } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useDirectory } from '@/composables/useDirectory'
import AppFrame from '@/features/frame/AppFrame.vue'
import { useWhatIf } from '@/features/reports/useWhatIf'
import { useRules } from '@/features/rules/useRules'
import NoReports from '@/features/reports/NoReports.vue'
import WhatIfForm from '@/features/reports/WhatIfForm.vue'
import WhatIfResult from '@/features/reports/WhatIfResult.vue'
import { listChanges } from '@/features/reports/whatIf'
import { sayTime } from '@/lib/words'

const { session, all, ask, shown, isPlaying, problem, start, forget, open } = useWhatIf()
const { data: rules } = useRules(computed(() => session.workspaceId))
const { byMember, byTeam } = useDirectory()
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const isBusy = computed(() => (all.value ?? []).some((one) => one.mine && isPlaying(one)))
const sayChanges = (one: PlayedWhatIf): string =>
  listChanges(one.asked, {
    member: (id) => byMember.value.get(id)?.name ?? 'somebody',
    team: (id) => byTeam.value.get(id) ?? 'a team',
    rule: (id) => rules.value?.rules.find((r) => r.id === id)?.body.name ?? 'a rule',
  }).join(', ') || 'nothing changed'
const sayState = (one: PlayedWhatIf): string =>
  one.state === 'done'
    ? ''
    : one.state === 'failed'
      ? 'failed'
      : one.total
        ? `${Math.floor((100 * one.done) / one.total)} %`
        : 'waits to be played'
</script>

<template>
  <AppFrame>
    <main
      class="grid min-h-0 flex-1 scroll-quiet grid-cols-[minmax(0,1fr)] content-start overflow-y-auto lg:grid-cols-[minmax(0,1fr)_300px] lg:content-stretch lg:overflow-hidden print:block">
      <NoReports v-if="!session.may('see_reports')" class="p-6" />
      <template v-else>
        <div class="scroll-quiet bg-sheet p-4 md:px-6 lg:min-h-0 lg:overflow-y-auto">
          <div class="max-w-4xl">
            <p class="text-[0.8125rem] print:hidden">
              <RouterLink
                class="font-semibold text-pine underline"
                :to="{ name: 'reports', params: { workspace: String(session.workspaceId) } }"
                >Reports</RouterLink
              >
            </p>
            <h1 class="font-name text-2xl font-bold">What if</h1>
            <p v-if="problem" role="alert" class="mt-1 text-brick" data-test="what-if-problem">{{ problem }}</p>
            <section v-if="shown" :aria-label="sayChanges(shown)">
              <h2 class="mt-1 font-name text-[1.0625rem] font-bold" data-test="what-if-title">
                {{ sayChanges(shown) }}
              </h2>
              <WhatIfResult v-if="shown.result" :result="shown.result" />
              <p v-else-if="shown.state === 'failed'" role="alert" class="mt-2 text-brick">{{ shown.problem }}</p>
              <div v-else role="status" class="mt-2 max-w-md" data-test="what-if-playing">
                <p class="text-ink-2">
                  {{ shown.total ? `${shown.done} of ${shown.total} steps played` : 'It waits to be played' }}. You can
                  leave this page meanwhile.
                </p>
                <div class="my-2 h-1.5 rounded bg-fold">
                  <div
                    class="h-1.5 rounded bg-pine"
                    :style="{ width: `${shown.total ? (shown.done / shown.total) * 100 : 2}%` }" />
                </div>
              </div>
              <p class="mt-3 flex gap-4 text-[0.8125rem] print:hidden">
                <button type="button" class="font-semibold text-pine underline" @click="open(null)">
                  Ask something else
                </button>
                <button
                  v-if="shown.mine"
                  type="button"
                  class="underline"
                  data-test="what-if-forget"
                  @click="forget(shown)">
                  {{ isPlaying(shown) ? 'Stop it' : 'Forget this' }}
                </button>
              </p>
            </section>
            <template v-else>
              <p class="mb-3 max-w-2xl text-[0.8125rem] text-ink-2">
                Days that are over are played again, with what you change here and the rest as it is now. Nothing on the
                desk is touched.
              </p>
              <WhatIfForm :workspace-id="session.workspaceId" :busy="isBusy" @start="start" />
              <p v-if="isBusy" class="mt-1 text-[0.8125rem] text-ink-2">
                One of yours is being played; wait for it, or stop it.
              </p>
            </template>
          </div>
        </div>
        <aside
          class="scroll-quiet border-rule bg-paper p-4 text-[0.8125rem] lg:overflow-y-auto lg:border-l print:hidden"
          aria-label="Asked before">
          <h2 class="mb-1 font-name text-[0.9375rem] font-bold">Asked before</h2>
          <LoadState :of="ask" :lines="4">
            <p v-if="!all?.length" class="text-ink-2">Nothing yet.</p>
            <ul v-else class="space-y-2">
              <li v-for="one in all" :key="one.id" class="border-b border-dotted border-rule pb-1.5">
                <RouterLink
                  class="block font-semibold hover:underline"
                  :class="one.id === shown?.id ? 'text-pine' : ''"
                  :aria-current="one.id === shown?.id ? 'page' : undefined"
                  :to="{ name: 'what-if', params: { workspace: String(session.workspaceId), played: String(one.id) } }"
                  >{{ sayChanges(one) }}</RouterLink
                >
                <span class="text-xs text-ink-2"
                  >{{ one.asked.days === 1 ? 'one day' : `${one.asked.days} days` }}, {{ one.member_name }},
                  {{ sayTime(one.made_at, zone) }} <b v-if="sayState(one)">{{ sayState(one) }}</b></span
                >
              </li>
            </ul>
          </LoadState>
        </aside>
      </template>
    </main>
  </AppFrame>
</template>
