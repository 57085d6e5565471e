<script setup lang="ts">
/** What changed beyond chance, and which parts did most of it: by there being more of them, and by going otherwise. */
import { computed } from 'vue'
import { RouterLink, type RouteLocationRaw } from 'vue-router'
import type { Explanation, Report, ReportFigure } from '@/api/types'
import PickMenu from '@/components/ui/PickMenu.vue'
import { sayFigure, saySpan } from '@/lib/reports'
import { sayDay } from '@/lib/words'
import { judge } from './figures'

const props = defineProps<{
  report: Report
  sayKey: (by: string, key: string) => string
  behind: (figure: string, more?: Record<string, string>) => RouteLocationRaw
  mayChoose: boolean
}>()
const emit = defineEmits<{ alarms: [aMonth: number] }>()
const ALARMS = [
  [0.25, 'one in four months'],
  [1, 'one a month'],
  [4, 'one a week'],
] as const
const sayAlarms = computed(
  () => ALARMS.find(([n]) => n === props.report.false_alarms)?.[1] ?? `${props.report.false_alarms} a month`,
)
/** The least likely ones, in the order of time. */
const SHOWN = 6
const unusual = computed(() =>
  [...props.report.unusual]
    .sort((a, b) => a.chance - b.chance)
    .slice(0, SHOWN)
    .sort((a, b) => a.day - b.day || a.hour - b.hour),
)
const dayOf = (n: number): string => sayDay(props.report.days.days[n] ?? '')
/** The cell of the week: Monday is 0. */
const cellOf = (u: { day: number; hour: number }): number =>
  ((new Date(props.report.days.days[u.day] ?? '').getUTCDay() + 6) % 7) * 24 + u.hour
const sayExpected = (n: number): string => (n < 0.1 ? 'next to none was' : `${n.toFixed(n < 10 ? 1 : 0)} were`)
const sayOnce = (months: number): string =>
  months > 120
    ? 'by chance hardly ever'
    : months < 1.5
      ? 'by chance about once a month'
      : `by chance once in ${Math.round(months)} months`
const BY: Record<Explanation['by'], string> = {
  account: 'account',
  kind: 'kind',
  priority: 'priority',
  member: 'who answered',
  team: 'team',
  weekday: 'the day they wrote',
  hours: 'the hour they wrote',
}
const changed = computed(() => props.report.figures.filter((f) => judge(f) !== 'same'))
const explained = (name: string): Explanation | undefined => props.report.explanations.find((e) => e.figure === name)
function sayHead(f: ReportFigure): string {
  const by = Math.abs(f.difference ?? 0)
  if (f.unit === 'cases') return `${f.title}: ${f.value} where it was ${f.before.value}.`
  if (f.unit === 'share')
    return `${f.title}: ${(by * 100).toFixed(1)} points ${(f.difference ?? 0) > 0 ? 'more' : 'less'}.`
  return `${f.title}: ${saySpan(by)} ${(f.difference ?? 0) > 0 ? 'more' : 'less'}.`
}
const points = (of: number): string => `${of >= 0 ? '+' : '−'}${Math.abs(of * 100).toFixed(1)}`
const widest = (e: Explanation): number =>
  Math.max(0.001, Math.abs(e.rest), ...e.parts.map((p) => Math.abs(p.mix + p.rate)))
const width = (e: Explanation, of: number): string => `${Math.round((Math.abs(of) / widest(e)) * 100)}%`
</script>

<template>
  <h2 class="font-name text-[0.9375rem] font-bold">What changed, and why</h2>
  <section v-for="f in changed" :key="f.name" class="border-t border-dotted border-rule py-2" :data-changed="f.name">
    <h3 class="font-bold">{{ sayHead(f) }}</h3>
    <p class="text-ink-2">
      It was {{ sayFigure(f.unit, f.before.value) }} and is {{ sayFigure(f.unit, f.value) }}; chance alone seldom makes
      that much.
    </p>
    <template v-if="explained(f.name)">
      <template v-for="e in [explained(f.name)!]" :key="e.by">
        <p class="mt-1 text-ink-2">
          <template v-if="e.within !== null"
            >Answered within {{ saySpan(e.within) }}: {{ points(e.change) }} points, most of it by
            {{ BY[e.by] }}:</template
          ><template v-else>Most of it by {{ BY[e.by] }}, in points:</template>
        </p>
        <ul class="mt-1 text-xs">
          <li
            v-for="p in [...e.parts, { key: '', mix: e.rest, rate: 0, cases: 0, cases_before: 0 }]"
            :key="p.key"
            class="grid grid-cols-[6.5rem_1fr_2.6rem] items-center gap-1.5">
            <span class="truncate" :title="p.key === '' ? 'all else' : sayKey(e.by, p.key)">{{
              p.key === '' ? 'all else' : sayKey(e.by, p.key)
            }}</span>
            <i
              class="block h-2.5"
              :class="p.mix + p.rate < 0 ? 'bg-brick-line' : 'bg-pine-line'"
              :style="{ width: width(e, p.mix + p.rate) }"
              aria-hidden="true" />
            <span class="text-right">{{ points(p.mix + p.rate) }}</span>
            <span v-if="p.cases" class="col-span-3 mb-1 text-ink-2">
              {{ p.cases }} cases, were {{ p.cases_before }}; {{ points(p.mix) }} for how many, {{ points(p.rate) }} for
              how it went
            </span>
          </li>
        </ul>
      </template>
    </template>
  </section>
  <section
    v-for="u in unusual"
    :key="`${u.day} ${u.hour}`"
    class="border-t border-dotted border-rule py-2"
    data-test="unusual">
    <h3 class="font-bold">{{ dayOf(u.day) }}, {{ u.hour }} to {{ u.hour + 1 }}, was out of the usual.</h3>
    <p class="text-ink-2">
      {{ u.came }} came in where {{ sayExpected(u.expected) }} to be expected; {{ sayOnce(u.months) }}.
      <RouterLink class="text-pine underline" :to="behind('came_in', { day: String(u.day), cell: String(cellOf(u)) })"
        >The {{ u.came }} conversations</RouterLink
      >
    </p>
  </section>
  <section class="border-t border-dotted border-rule py-2">
    <h3 class="font-bold">
      {{ changed.length || unusual.length ? 'Nothing else stands out.' : 'Nothing stands out.' }}
    </h3>
    <p class="text-ink-2">
      {{ report.figures.length - changed.length }} figures lie within what chance gives, or have too few cases.
    </p>
    <div class="mt-2 space-y-1 text-ink-2 print:hidden">
      <p>Hours are called out of the usual, and told of while they last, so that chance alone makes about</p>
      <PickMenu
        v-if="mayChoose"
        label="False alarms"
        :choices="ALARMS.map(([value, text]) => ({ value, text }))"
        @pick="(n: number) => emit('alarms', n)"
        >{{ sayAlarms }} <span aria-hidden="true">▾</span></PickMenu
      >
      <p v-else>{{ sayAlarms }}</p>
    </div>
  </section>
</template>
