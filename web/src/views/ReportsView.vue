<script setup lang="ts">
/** How we answered: a report of a period as a page one reads. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import LoadState from '@/components/ui/LoadState.vue'
import BreakdownTable from '@/features/reports/BreakdownTable.vue'
import DaysChart from '@/features/reports/DaysChart.vue'
import DoingsTables from '@/features/reports/DoingsTables.vue'
import FigureStrip from '@/features/reports/FigureStrip.vue'
import NoReports from '@/features/reports/NoReports.vue'
import ReportActs from '@/features/reports/ReportActs.vue'
import ReportSentence from '@/features/reports/ReportSentence.vue'
import SentimentChart from '@/features/reports/SentimentChart.vue'
import SpreadChart from '@/features/reports/SpreadChart.vue'
import { useReport } from '@/features/reports/useReport'
import StandingChart from '@/features/reports/StandingChart.vue'
import StaffingPlan from '@/features/reports/StaffingPlan.vue'
import WeekChart from '@/features/reports/WeekChart.vue'
import WhatChanged from '@/features/reports/WhatChanged.vue'
import AppFrame from '@/features/frame/AppFrame.vue'
import { writeQuery, type Narrowed } from '@/lib/reports'
import { sayDay } from '@/lib/words'

const { session, address, query, report, ask, set, narrow, choices, sayKey, behind } = useReport()
const { problem: alarmsProblem, attempt } = useAttempt()
const setAlarms = (aMonth: number): Promise<boolean> =>
  attempt(async () => {
    await take(
      api.PUT('/api/workspaces/{workspace_id}/report/false-alarms', {
        params: { path: { workspace_id: session.workspaceId } },
        body: { a_month: aMonth },
      }),
    )
    ask.refetch()
  })
const exports = computed(() =>
  session.may('export')
    ? (figure: string, as: 'csv' | 'xlsx' | 'json'): string =>
        `/api/workspaces/${session.workspaceId}/report/conversations.${as}?${writeQuery(address.value, { figure })}`
    : null,
)
const valueOf = (name: string): number | null => report.value?.figures.find((f) => f.name === name)?.value ?? null
const days = computed(() => {
  const r = report.value
  if (!r) return ''
  const span = (a: string, b: string): string => (a === b ? sayDay(a) : `${sayDay(a)} to ${sayDay(b)}`)
  return `${span(r.first, r.last)}, against ${span(r.compared_first, r.compared_last)}; days by ${r.time_zone}`
})
</script>

<template>
  <AppFrame>
    <main
      class="grid min-h-0 flex-1 scroll-quiet grid-cols-[minmax(0,1fr)] content-start overflow-y-auto lg:grid-cols-[minmax(0,1fr)_296px] lg:content-stretch lg:overflow-hidden print:block print:overflow-visible">
      <NoReports v-if="!session.may('see_reports')" class="p-6" />
      <template v-else>
        <div class="scroll-quiet bg-sheet p-4 md:px-6 lg:min-h-0 lg:overflow-y-auto print:overflow-visible">
          <div class="flex flex-wrap items-start justify-between gap-2">
            <h1 class="font-name text-2xl font-bold">How we answered</h1>
            <ReportActs :address="address" />
          </div>
          <ReportSentence
            :address="address"
            :first="report?.first"
            :last="report?.last"
            :choices="choices"
            @set="set"
            @narrow="narrow" />
          <p class="mb-2 text-xs text-ink-2" data-test="days">{{ days }}</p>
          <LoadState :of="ask" :lines="8">
            <template v-if="report">
              <p v-if="!report.are_told" role="status" class="mb-2 bg-honey-wash px-3 py-1.5 text-honey-ink">
                What came in before reports were kept is still being counted; the figures grow until that is done.
              </p>
              <FigureStrip :figures="report.figures" :behind="behind" :exports="exports" />
              <p
                v-if="!valueOf('came_in') && !valueOf('answers')"
                class="my-6 rounded-md border border-rule px-4 py-8 text-center text-ink-2">
                Nothing came in and nothing was answered in these days, as far as these filters let through.
              </p>
              <div v-else class="mt-4 space-y-5">
                <DaysChart :days="report.days" :unusual="report.unusual" :behind="behind" />
                <StandingChart :workspace-id="session.workspaceId" :query="query" :behind="behind" />
                <div class="grid grid-cols-[minmax(0,1fr)] gap-6 xl:grid-cols-2">
                  <WeekChart :week="report.week" :zone="report.time_zone" :behind="behind" />
                  <SpreadChart :spread="report.spread" :half="valueOf('first_half')" />
                </div>
                <SentimentChart :report="report" :say-key="sayKey" :behind="behind" />
                <BreakdownTable
                  :breakdowns="report.breakdowns"
                  :say-key="sayKey"
                  @narrow="(by, key) => narrow(by as Narrowed, [key])" />
                <StaffingPlan :workspace-id="session.workspaceId" :query="query" />
                <DoingsTables :workspace-id="session.workspaceId" :query="query" />
              </div>
            </template>
          </LoadState>
        </div>
        <aside
          class="scroll-quiet border-rule bg-paper p-4 text-[0.8125rem] lg:overflow-y-auto lg:border-l"
          aria-label="What changed">
          <WhatChanged
            v-if="report"
            :report="report"
            :say-key="sayKey"
            :behind="behind"
            :may-choose="session.may('manage_rules')"
            @alarms="setAlarms" />
          <p v-if="alarmsProblem" role="alert" class="text-brick">{{ alarmsProblem }}</p>
          <RouterLink
            class="mt-3 block font-semibold text-pine underline print:hidden"
            :to="{ name: 'health', params: { workspace: String(session.workspaceId) } }"
            >Accounts’ health</RouterLink
          >
        </aside>
      </template>
    </main>
  </AppFrame>
</template>
