<script setup lang="ts">
/** Day by day: what came in, what was answered, how many waited when the day ended. */
import { computed } from 'vue'
import { RouterLink, useRouter, type RouteLocationRaw } from 'vue-router'
import type { Report } from '@/api/types'
import { sayDay } from '@/lib/words'
import { countAxis, dayAxis, noteStyle, type Inks } from './charts'
import ReportChart from './ReportChart.vue'

const props = defineProps<{
  days: Report['days']
  unusual: Report['unusual']
  behind: (figure: string, more?: Record<string, string>) => RouteLocationRaw
}>()
const router = useRouter()
const FIGURES = ['came_in', 'answers', 'open_at_end'] as const
const names = computed(() => props.days.days.map((d) => sayDay(d)))
const says = computed(() => {
  const most = Math.max(...props.days.came_in)
  const at = names.value[props.days.came_in.indexOf(most)]
  const sum = (of: (number | null)[]): number => of.reduce<number>((a, b) => a + (b ?? 0), 0)
  const came = `${sum(props.days.came_in)} came in, most on ${at} (${most})`
  return `Bars and lines by day. ${came}; ${sum(props.days.answers)} were answered. The table below has each day.`
})
/** The name of a line stands at the place where it is highest, so that it crosses no other. */
const option = computed(() => (inks: Inks): object => {
  const { came_in, answers, open_at_end } = props.days
  const storms = new Set(props.unusual.map((u) => u.day))
  const line = (name: string, data: (number | null)[], colour: string, type: 'solid' | 'dotted') => ({
    type: 'line',
    name,
    data,
    symbol: 'circle',
    symbolSize: 5,
    showSymbol: data.length < 32,
    lineStyle: { color: colour, width: type === 'solid' ? 2 : 1.5, type },
    itemStyle: { color: colour },
  })
  return {
    grid: { left: 40, right: 12, top: 26, bottom: 24 },
    tooltip: {
      trigger: 'axis',
      ...noteStyle(inks),
    },
    xAxis: dayAxis(inks, names.value),
    yAxis: countAxis(inks),
    series: [
      {
        type: 'bar',
        name: 'came in',
        data: came_in.map((value, n) => ({
          value,
          itemStyle: storms.has(n) ? { color: inks.brick, opacity: 0.35 } : { color: inks.sky, opacity: 0.28 },
        })),
        barMaxWidth: 24,
      },
      line('answered', answers, inks.pine, 'solid'),
      line('waiting at the day’s end', open_at_end, inks.ink, 'dotted'),
    ],
  }
})
function pick(at: { seriesIndex: number; dataIndex: number }): void {
  const figure = FIGURES[at.seriesIndex]
  if (figure) void router.push(props.behind(figure, { day: String(at.dataIndex) }))
}
</script>

<template>
  <ReportChart
    title="What came in, what was answered, what stayed open"
    :says="says"
    :height="220"
    :option="option"
    @pick="pick">
    <template #beside>
      <ul class="flex gap-4 text-xs font-semibold" aria-hidden="true">
        <li class="text-sky"><span class="mr-1 inline-block h-2.5 w-2.5 bg-sky opacity-30" />came in</li>
        <li class="text-pine"><span class="mr-1 inline-block w-4 border-t-2 border-pine align-middle" />answered</li>
        <li>
          <span class="mr-1 inline-block w-4 border-t-2 border-dotted border-ink align-middle" />waiting at the day’s
          end
        </li>
      </ul>
    </template>
    <template #table>
      <table class="w-full" data-test="days-table">
        <thead>
          <tr class="border-b border-rule text-left text-xs text-ink-2">
            <th scope="col" class="py-1 font-semibold">Day</th>
            <th scope="col" class="py-1 text-right font-semibold">Came in</th>
            <th scope="col" class="py-1 text-right font-semibold">Answered</th>
            <th scope="col" class="py-1 text-right font-semibold">Settled without a reply</th>
            <th scope="col" class="py-1 text-right font-semibold">Waiting at the day’s end</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(day, n) in days.days" :key="day" class="border-b border-rule-soft">
            <th scope="row" class="py-1 text-left font-semibold">{{ names[n] }}</th>
            <td
              v-for="f in ['came_in', 'answers', 'without_reply', 'open_at_end'] as const"
              :key="f"
              class="py-1 text-right">
              <RouterLink v-if="days[f][n]" class="underline" :to="behind(f, { day: String(n) })">{{
                days[f][n]
              }}</RouterLink><template v-else>{{ days[f][n] ?? 'not over' }}</template>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </ReportChart>
</template>
