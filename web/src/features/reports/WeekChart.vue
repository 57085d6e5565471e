<script setup lang="ts">
/** The hours of the week on the workspace's clock: when they write, when we answer, how long what was answered then had waited. */
import { computed, ref } from 'vue'
import { useRouter, type RouteLocationRaw } from 'vue-router'
import type { Report } from '@/api/types'
import { HOURS, saySpan, WEEKDAYS } from '@/lib/reports'
import { labelStyle, noteStyle, type Inks } from './charts'
import ReportChart from './ReportChart.vue'

const props = defineProps<{
  week: Report['week']
  zone: string
  behind: (figure: string, more?: Record<string, string>) => RouteLocationRaw
}>()
const router = useRouter()
const SHOWN = [
  ['came_in', 'when they write'],
  ['answers', 'when we answer'],
  ['median', 'median wait'],
] as const
const shown = ref<(typeof SHOWN)[number][0]>('came_in')
/** An hour that a clock change skipped has no figure; one that came twice counts as two. */
const rates = computed(() =>
  props.week.hours.map((hours, cell) => {
    if (shown.value === 'median') return props.week.median[cell] ?? null
    return hours ? (props.week[shown.value][cell] ?? 0) / hours : null
  }),
)
const isOpen = (cell: number): boolean => (props.week.open[cell] ?? 0) >= 0.5
const sayRate = (value: number | null): string =>
  value === null ? 'too few' : shown.value === 'median' ? saySpan(value) : `${value.toFixed(1)} an hour`
const says = computed(() => {
  const values = rates.value.map((v) => v ?? 0)
  const at = values.indexOf(Math.max(...values))
  const what = SHOWN.find(([k]) => k === shown.value)?.[1] ?? ''
  const top = `Most on ${WEEKDAYS[Math.floor(at / 24)]} from ${at % 24}: ${sayRate(rates.value[at] ?? null)}.`
  return `The hours of the week, ${what}, by ${props.zone}. ${top} The table below has each hour.`
})
const option = computed(() => (inks: Inks): object => {
  const values = rates.value
  return {
    grid: { left: 36, right: 8, top: 20, bottom: 6 },
    tooltip: {
      ...noteStyle(inks),
      formatter: (p: { value: [number, number, number | null] }) =>
        `${WEEKDAYS[6 - p.value[1]]} ${p.value[0]}:00, ${sayRate(values[(6 - p.value[1]) * 24 + p.value[0]] ?? null)}${isOpen((6 - p.value[1]) * 24 + p.value[0]) ? '' : ', closed'}`,
    },
    visualMap: {
      show: false,
      min: 0,
      max: Math.max(0.001, ...values.map((v) => v ?? 0)),
      inRange: { color: [inks.skyWash, inks.sky] },
    },
    xAxis: {
      type: 'category',
      position: 'top',
      data: HOURS,
      axisTick: { show: false },
      axisLine: { show: false },
      axisLabel: { ...labelStyle(inks), interval: 2 },
    },
    yAxis: {
      type: 'category',
      data: [...WEEKDAYS].reverse(),
      axisTick: { show: false },
      axisLine: { show: false },
      axisLabel: labelStyle(inks),
    },
    series: [
      {
        type: 'heatmap',
        data: values.flatMap((v, cell) => (v === null ? [] : [[cell % 24, 6 - Math.floor(cell / 24), v]])),
        itemStyle: { borderColor: inks.sheet, borderWidth: 1 },
        // A dot where it is closed: what came then waits for the opening.
        label: {
          show: true,
          color: inks.ink2,
          fontSize: 11,
          formatter: (p: { value: [number, number] }) => (isOpen((6 - p.value[1]) * 24 + p.value[0]) ? '' : '·'),
        },
      },
    ],
  }
})
function pick(at: { data: unknown }): void {
  const [hour, row] = at.data as [number, number]
  void router.push(
    props.behind(shown.value === 'came_in' ? 'came_in' : 'answers', { cell: String((6 - row) * 24 + hour) }),
  )
}
</script>

<template>
  <ReportChart title="The hours of the week" :says="says" :height="190" :option="option" @pick="pick">
    <template #beside>
      <span role="radiogroup" aria-label="What the hours show" class="flex flex-wrap gap-x-3 text-xs whitespace-nowrap">
        <button
          v-for="[key, text] in SHOWN"
          :key="key"
          type="button"
          role="radio"
          :aria-checked="shown === key"
          :class="shown === key ? 'font-semibold text-ink' : 'text-pine underline'"
          @click="shown = key">
          {{ text }}
        </button>
      </span>
      <span class="text-xs text-ink-2" aria-hidden="true">· where it is closed</span>
    </template>
    <template #table>
      <table class="text-xs">
        <thead>
          <tr class="text-ink-2">
            <th scope="col"><span class="sr-only">Day</span></th>
            <th v-for="h in HOURS" :key="h" scope="col" class="px-1 font-semibold">{{ h }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(day, d) in WEEKDAYS" :key="day">
            <th scope="row" class="pr-2 text-left font-semibold">{{ day }}</th>
            <td v-for="h in HOURS" :key="h" class="px-1 text-right">
              {{ shown === 'median' ? sayRate(week.median[d * 24 + h] ?? null) : week[shown][d * 24 + h] }}
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </ReportChart>
</template>
