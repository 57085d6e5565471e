<script setup lang="ts">
/** What came of days that were played again: the figures as they were and with what was changed, and how busy each was. */
import { computed } from 'vue'
import type { WhatIfResult } from '@/api/types'
import { saySpan } from '@/lib/reports'
import { isFar, judge, PLAYED, sayDifference, sayMiddle, sayReach, type Spread } from './whatIf'
import { sayDay } from '@/lib/words'

const props = defineProps<{ result: WhatIfResult }>()
const r = computed(() => props.result)
const rows = computed(() =>
  PLAYED.map((figure) => {
    const found = r.value.figures[figure.name]
    return {
      ...figure,
      found,
      really: r.value.really[figure.name] ?? null,
      is: found ? judge(found.difference, figure.less) : 'none',
    }
  }),
)
const VERDICTS = { better: 'better', worse: 'worse', none: 'no difference that luck would not make' } as const
const SOURCES = { given: 'as set', timed: 'as timed', assumed: 'assumed, for too few answers were timed' } as const
const percent = (n: number | null): string => (n === null ? '–' : `${Math.round(n * 100)} %`)
const nameOf = (id: number): string => (id ? (r.value.names[String(id)] ?? 'Somebody') : 'Somebody new')
const sayReally = (unit: 'cases' | 'seconds' | 'share', n: number | null): string =>
  sayMiddle(unit, { middle: n, low: n, high: n } satisfies Spread)
</script>

<template>
  <div data-test="what-if-result">
    <p class="text-[0.8125rem] text-ink-2">
      {{ sayDay(r.first) }} to {{ sayDay(r.last) }}: people waited {{ r.waits.toLocaleString('en-GB') }} times. Played
      {{ r.runs }} times as it was and {{ r.runs }} times with the change, each time with the same luck. An answer takes
      {{ saySpan(r.handling) }} ({{ SOURCES[r.source] }}).
      <template v-if="r.changed_waits">The rules make something else of {{ r.changed_waits }} messages.</template>
    </p>
    <div class="mt-2 overflow-x-auto" tabindex="0" role="region" aria-label="Figures as they were and with the change">
      <table class="w-full min-w-[560px] text-[0.84375rem]">
        <thead class="text-xs text-ink-2">
          <tr>
            <th scope="col" class="py-1 text-left font-semibold"><span class="sr-only">Figure</span></th>
            <th scope="col" class="px-2 text-right font-semibold">really</th>
            <th scope="col" class="px-2 text-right font-semibold">played as it was</th>
            <th scope="col" class="px-2 text-right font-semibold">with the change</th>
            <th scope="col" class="text-right font-semibold">difference</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="row in rows"
            :key="row.name"
            class="border-b border-dotted border-rule align-baseline"
            :data-test="`played-${row.name}`">
            <th scope="row" class="py-1.5 text-left font-normal">{{ row.title }}</th>
            <td class="px-2 text-right">{{ sayReally(row.unit, row.really) }}</td>
            <td class="px-2 text-right">
              {{ sayMiddle(row.unit, row.found?.before)
              }}<span class="block text-xs text-ink-2">{{ sayReach(row.unit, row.found?.before) }}</span>
            </td>
            <td class="px-2 text-right font-semibold">
              {{ sayMiddle(row.unit, row.found?.after)
              }}<span class="block text-xs font-normal text-ink-2">{{ sayReach(row.unit, row.found?.after) }}</span>
            </td>
            <td class="text-right" :class="{ 'text-pine': row.is === 'better', 'text-brick': row.is === 'worse' }">
              <b>{{ sayDifference(row.unit, row.found?.difference.middle ?? null) }}</b><span class="block text-xs">{{
                row.less ? VERDICTS[row.is] : ''
              }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p
      v-if="isFar(r)"
      role="note"
      class="mt-2 border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-1 text-[0.8125rem] text-honey-ink"
      data-test="what-if-far">
      Played as they were, the days come out otherwise than they really were: take the difference as a hint, and no
      more. Something decides here that is not played.
    </p>
    <h3 class="mt-4 font-name text-[0.9375rem] font-bold">How much of their shifts goes into it</h3>
    <table class="mt-1 text-[0.8125rem]">
      <thead class="text-xs text-ink-2">
        <tr>
          <th scope="col" class="text-left font-semibold"><span class="sr-only">Who</span></th>
          <th scope="col" class="px-3 text-right font-semibold">as it was</th>
          <th scope="col" class="text-right font-semibold">with the change</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(p, n) in r.people" :key="n" class="border-b border-dotted border-rule">
          <th scope="row" class="py-1 pr-4 text-left font-normal">{{ nameOf(p.id) }}</th>
          <td class="px-3 text-right">{{ percent(p.before) }}</td>
          <td class="text-right">{{ percent(p.after) }}</td>
        </tr>
      </tbody>
    </table>
    <details class="mt-4 max-w-3xl text-[0.8125rem] text-ink-2">
      <summary class="cursor-pointer font-semibold">How it is played, and what is not in it</summary>
      <p class="mt-1">
        What came in comes in again at its time. Whoever is on shift and free takes what is due first, of what they were
        given and of what lies with their teams; they finish what they began, begin nothing after their shift, and hold
        no more than their capacity. How long an answer takes is drawn from those that were timed; reading and settling
        takes half a minute (an assumption). What stood parked, in review or with others stands as long again. Between
        one thing and the next, people do something else for
        {{ r.pause ? `${saySpan(r.pause)} on the average` : 'no time at all' }}: with that, half of the first answers
        are out as soon as they really were. The second line of each figure holds 95 of 100 runs.
      </p>
      <p class="mt-1">
        Not in it: that people write again when they wait, that somebody knows a person, holidays of the past that are
        not known any more, and what else people do. The figures are about what came in in these days and was answered
        in them.
      </p>
    </details>
  </div>
</template>
