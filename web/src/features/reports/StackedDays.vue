<script setup lang="ts">
/** Bars by day, stacked, each part with its list; the table has the same. */
import { computed } from 'vue'
import { RouterLink, useRouter, type RouteLocationRaw } from 'vue-router'
import { sayDay } from '@/lib/words'
import { countAxis, dayAxis, INKS, noteStyle, type Inks } from './charts'
import ReportChart from './ReportChart.vue'

/** One of what is stacked; null for days that are not over. */
export interface Part {
  key: string
  said: string
  ink: keyof Inks
  opacity?: number
  counts: readonly (number | null)[]
}
const props = defineProps<{
  title: string
  says: string
  height: number
  days: readonly string[]
  parts: readonly Part[]
  to: (day: number, key: string) => RouteLocationRaw
}>()
const router = useRouter()
const names = computed(() => props.days.map((d) => sayDay(d)))
const option = computed(() => (inks: Inks): object => ({
  grid: { left: 36, right: 8, top: 20, bottom: 22 },
  tooltip: { trigger: 'axis', axisPointer: { type: 'shadow' }, ...noteStyle(inks) },
  xAxis: dayAxis(inks, names.value),
  yAxis: countAxis(inks),
  series: props.parts.map((p) => ({
    type: 'bar',
    name: p.said,
    stack: 'all',
    barMaxWidth: 24,
    data: p.counts,
    itemStyle: { color: inks[p.ink], opacity: p.opacity ?? 1 },
  })),
}))
function pick(at: { seriesIndex: number; dataIndex: number }): void {
  const part = props.parts[at.seriesIndex]
  if (part) void router.push(props.to(at.dataIndex, part.key))
}
</script>

<template>
  <ReportChart :title="title" :says="says" :height="height" :option="option" @pick="pick">
    <template #beside>
      <ul class="flex flex-wrap gap-x-4 text-xs" aria-hidden="true">
        <li v-for="p in parts" :key="p.key">
          <span
            class="mr-1 inline-block h-2.5 w-2.5"
            :style="{ background: `var(${INKS[p.ink]})`, opacity: p.opacity ?? 1 }" />{{ p.said }}
        </li>
      </ul>
    </template>
    <template #table>
      <table class="w-full">
        <thead>
          <tr class="border-b border-rule text-left text-xs text-ink-2">
            <th scope="col" class="py-1 font-semibold">Day</th>
            <th v-for="p in parts" :key="p.key" scope="col" class="py-1 pl-3 text-right font-semibold">{{ p.said }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(day, n) in names" :key="day" class="border-b border-rule-soft">
            <th scope="row" class="py-1 text-left font-semibold">{{ day }}</th>
            <td v-for="p in parts" :key="p.key" class="py-1 text-right">
              <RouterLink v-if="p.counts[n]" class="underline" :to="to(n, p.key)">{{
                p.counts[n]
              }}</RouterLink><template v-else>{{ p.counts[n] ?? 'not over' }}</template>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </ReportChart>
</template>
