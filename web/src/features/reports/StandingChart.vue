<script setup lang="ts">
/** Where what waited at each day's end stood. */
import { computed } from 'vue'
import { RouterLink, useRouter, type RouteLocationRaw } from 'vue-router'
import { api, take } from '@/api/client'
import type { ReportStanding } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { PHASES } from '@/lib/reports'
import { sayDay } from '@/lib/words'
import { countAxis, dayAxis, INKS, noteStyle, type Inks } from './charts'
import ReportChart from './ReportChart.vue'

const props = defineProps<{
  workspaceId: number
  query: Record<string, unknown>
  behind: (figure: string, more?: Record<string, string>) => RouteLocationRaw
}>()
const router = useRouter()
const { data: standing, ask } = useAsk<ReportStanding>('Where it stood', {
  key: () => ['standing', props.workspaceId, JSON.stringify(props.query)],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/report/standing', {
        params: { path: { workspace_id: props.workspaceId }, query: props.query },
      }),
    ),
  placeholderData: (before) => before,
})
const names = computed(() => standing.value?.days.map((d) => sayDay(d)) ?? [])
const isOver = (n: number): boolean => standing.value?.rows[0]?.open_at_end[n] != null
/** Those at which something stood on some day, in the order of work. */
const rows = computed(() =>
  PHASES.map(([phase, said, ink, texture]) => ({
    phase,
    said,
    ink,
    texture,
    counts: standing.value?.rows.find((r) => r.phase === phase)?.open_at_end ?? [],
  })).filter((r) => r.counts.some(Boolean)),
)
const says = computed(() => {
  const last = names.value.findLastIndex((_, n) => isOver(n))
  if (last < 0) return 'No day of the period is over yet.'
  const told = rows.value.map((r) => `${r.said} ${r.counts[last] ?? 0}`).join(', ')
  return `Bars by day. At the end of ${names.value[last]}: ${told || 'nothing waited'}. The table below has each day.`
})
const option = computed(() => (inks: Inks): object => ({
  grid: { left: 36, right: 8, top: 20, bottom: 22 },
  tooltip: { trigger: 'axis', axisPointer: { type: 'shadow' }, ...noteStyle(inks) },
  xAxis: dayAxis(inks, names.value),
  yAxis: countAxis(inks),
  series: rows.value.map((r) => ({
    type: 'bar',
    name: r.said,
    stack: 'all',
    barMaxWidth: 24,
    data: r.counts,
    itemStyle: { color: inks[r.ink], opacity: r.texture, borderColor: inks.sheet, borderWidth: 1 },
  })),
}))
const at = (day: number, phase: string): RouteLocationRaw => props.behind('open_at_end', { day: String(day), phase })
function pick(where: { seriesIndex: number; dataIndex: number }): void {
  const row = rows.value[where.seriesIndex]
  if (row) void router.push(at(where.dataIndex, row.phase))
}
</script>

<template>
  <LoadState :of="ask" :lines="4">
    <ReportChart
      v-if="standing && rows.length"
      data-test="standing"
      title="Where it stood at each day’s end"
      :says="says"
      :height="170"
      :option="option"
      @pick="pick">
      <template #beside>
        <ul class="flex flex-wrap gap-x-4 text-xs" aria-hidden="true">
          <li v-for="r in rows" :key="r.phase">
            <span
              class="mr-1 inline-block h-2.5 w-2.5"
              :style="{ background: `var(${INKS[r.ink]})`, opacity: r.texture }" />{{ r.said }}
          </li>
        </ul>
      </template>
      <template #table>
        <table class="w-full">
          <thead>
            <tr class="border-b border-rule text-left text-xs text-ink-2">
              <th scope="col" class="py-1 font-semibold">Day</th>
              <th v-for="r in rows" :key="r.phase" scope="col" class="py-1 pl-3 text-right font-semibold">
                {{ r.said }}
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(day, n) in names" :key="day" class="border-b border-rule-soft">
              <th scope="row" class="py-1 text-left font-semibold">{{ day }}</th>
              <td v-for="r in rows" :key="r.phase" class="py-1 text-right">
                <RouterLink v-if="r.counts[n]" class="underline" :to="at(n, r.phase)">{{
                  r.counts[n]
                }}</RouterLink><template v-else>{{ isOver(n) ? 0 : 'not over' }}</template>
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </ReportChart>
  </LoadState>
</template>
