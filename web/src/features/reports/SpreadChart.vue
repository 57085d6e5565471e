<script setup lang="ts">
/** How long first answers took: each bar twice the square root of two longer than the one before; late ones in brick. */
import { computed } from 'vue'
import type { Report } from '@/api/types'
import { saySpan } from '@/lib/reports'
import { countAxis, labelStyle, noteStyle, type Inks } from './charts'
import ReportChart from './ReportChart.vue'

const props = defineProps<{ spread: Report['spread']; half: number | null }>()
/** Without the empty bars at both ends. */
const shown = computed(() => {
  const { counts } = props.spread
  const first = counts.findIndex(Boolean)
  const last = counts.findLastIndex(Boolean)
  return first < 0 ? [] : Array.from({ length: last - first + 1 }, (_, n) => first + n)
})
const sayBar = (n: number): string => {
  const [low, high] = [props.spread.edges[n] ?? 0, props.spread.edges[n + 1]]
  if (n === 0) return `up to ${saySpan(high ?? 0)}`
  return high === undefined ? `over ${saySpan(low)}` : `${saySpan(low)} to ${saySpan(high)}`
}
/** The bar that a length lies in, by its place among those shown; null where it lies in none. */
function placeOf(seconds: number): number | null {
  const { edges } = props.spread
  const bar = edges.findLastIndex((edge, n) => n === 0 || edge <= seconds)
  const place = shown.value.indexOf(bar)
  return place < 0 ? null : place
}
/** The targets that most first answers are held to, the shortest first. */
const targets = computed(() =>
  [...props.spread.promised]
    .sort((a, b) => b.cases - a.cases)
    .slice(0, 3)
    .sort((a, b) => a.seconds - b.seconds),
)
const says = computed(() => {
  const all = props.spread.counts.reduce((a, b) => a + b, 0)
  const kept = props.spread.kept.reduce((a, b) => a + b, 0)
  const half = props.half === null ? '' : ` Half within ${saySpan(props.half)}.`
  const held = targets.value.map((t) => saySpan(t.seconds)).join(', ')
  const promised = held ? ` Most are held to a target of ${held}.` : ''
  return `How long ${all} first answers took, on a scale of doubling times.${half}${promised} ${all - kept} came after their target. The table below has each bar.`
})
const option = computed(() => (inks: Inks): object => {
  const bars = shown.value
  return {
    grid: { left: 36, right: 8, top: 30, bottom: 22 },
    tooltip: {
      trigger: 'axis',
      axisPointer: { type: 'shadow' },
      ...noteStyle(inks),
    },
    xAxis: {
      type: 'category',
      data: bars.map(sayBar),
      axisTick: { show: false },
      axisLine: { lineStyle: { color: inks.rule } },
      axisLabel: {
        ...labelStyle(inks),
        hideOverlap: true,
        formatter: (_: string, n: number) => saySpan(props.spread.edges[bars[n] ?? 0] ?? 0),
      },
    },
    yAxis: countAxis(inks),
    series: [
      {
        type: 'bar',
        name: 'within the target',
        stack: 'all',
        barCategoryGap: '8%',
        data: bars.map((n) => props.spread.kept[n]),
        itemStyle: { color: inks.pineLine },
      },
      {
        type: 'bar',
        name: 'after it',
        stack: 'all',
        data: bars.map((n) => (props.spread.counts[n] ?? 0) - (props.spread.kept[n] ?? 0)),
        itemStyle: { color: inks.brickLine },
        markLine: {
          symbol: 'none',
          silent: true,
          label: { color: inks.ink, fontSize: 11, fontFamily: 'inherit' },
          data: [
            ...(props.half === null ? [] : [{ words: 'half', at: props.half, type: 'solid', colour: inks.ink }]),
            ...targets.value.map((t) => ({
              words: `target ${saySpan(t.seconds)}`,
              at: t.seconds,
              type: 'dashed',
              colour: inks.brick,
            })),
          ].flatMap(({ words, at, type, colour }, n) => {
            const place = placeOf(at)
            return place === null
              ? []
              : [
                  {
                    xAxis: place,
                    label: { formatter: words, distance: n % 2 ? 2 : 12 },
                    lineStyle: { type, color: colour, width: 1.5 },
                  },
                ]
          }),
        },
      },
    ],
  }
})
</script>

<template>
  <ReportChart title="How long the first answer took" :says="says" :height="190" :option="option">
    <template #beside>
      <ul class="flex gap-4 text-xs" aria-hidden="true">
        <li><span class="mr-1 inline-block h-2.5 w-2.5 bg-pine-line" />within the target</li>
        <li><span class="mr-1 inline-block h-2.5 w-2.5 bg-brick-line" />after it</li>
      </ul>
    </template>
    <template #table>
      <table class="w-full">
        <thead>
          <tr class="border-b border-rule text-left text-xs text-ink-2">
            <th scope="col" class="py-1 font-semibold">Took</th>
            <th scope="col" class="py-1 text-right font-semibold">First answers</th>
            <th scope="col" class="py-1 text-right font-semibold">Within the target</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="n in shown" :key="n" class="border-b border-rule-soft">
            <th scope="row" class="py-1 text-left font-semibold">{{ sayBar(n) }}</th>
            <td class="py-1 text-right">{{ spread.counts[n] }}</td>
            <td class="py-1 text-right">{{ spread.kept[n] }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </ReportChart>
</template>
