<script setup lang="ts">
/** The figures of a report: each opens its list, with what it was before and how sure that is; below, what each says. */
import { RouterLink, type RouteLocationRaw } from 'vue-router'
import type { ReportFigure } from '@/api/types'
import { sayFigure, sayNumber } from '@/lib/reports'
import { judge, sayChange, sayInterval } from './figures'

defineProps<{
  figures: ReportFigure[]
  behind: (figure: string, more?: Record<string, string>) => RouteLocationRaw
  /** Where the list of a figure's conversations is taken from, for who may. */
  exports: ((figure: string, as: 'csv' | 'xlsx' | 'json') => string) | null
}>()
const CLASS = {
  better: 'font-semibold text-pine',
  worse: 'font-semibold text-brick',
  other: 'font-semibold text-ink',
  same: '',
}
const WORD = { better: ', better', worse: ', worse', other: '', same: '' }
</script>

<template>
  <ul class="grid grid-cols-2 border-t border-rule sm:grid-cols-3 lg:grid-cols-5">
    <li
      v-for="f in figures"
      :key="f.name"
      class="border-r border-b border-rule-soft px-3 py-2 last:border-r-0 lg:nth-[5n]:border-r-0"
      :data-figure="f.name">
      <h2 class="text-xs leading-tight font-semibold text-ink-2">{{ f.title }}</h2>
      <RouterLink
        v-if="f.conversations"
        :to="behind(f.name)"
        class="inline-block border-b-[1.5px] border-pine-line font-name text-2xl leading-tight font-bold hover:text-pine"
        :aria-label="`${f.title}: ${sayFigure(f.unit, f.value)}; open the ${f.conversations} conversations`"
        >{{ sayFigure(f.unit, f.value) }}</RouterLink><b
        v-else
        class="block font-name text-2xl leading-tight font-bold"
        >{{ sayFigure(f.unit, f.value) }}</b
      >
      <p class="mt-0.5 text-xs text-ink-2">
        <template v-if="f.too_few && f.unit !== 'cases'">too few to say more: {{ f.cases }}</template>
        <template v-else
          ><template v-if="sayInterval(f.unit, f)">{{ sayInterval(f.unit, f) }}; </template
          ><span :class="CLASS[judge(f)]">{{ sayChange(f) }}{{ WORD[judge(f)] }}</span></template
        >
      </p>
    </li>
  </ul>
  <details class="mt-1 text-[0.8125rem]">
    <summary class="cursor-pointer text-xs text-pine underline" data-test="definitions">
      What each figure counts
    </summary>
    <div class="scroll-quiet overflow-x-auto" tabindex="0" role="region" aria-label="What each figure counts">
      <table class="mt-1 w-full">
        <thead>
          <tr class="border-b border-rule text-left text-xs text-ink-2">
            <th scope="col" class="py-1 pr-3 font-semibold">Figure</th>
            <th scope="col" class="py-1 pr-3 text-right font-semibold">Now</th>
            <th scope="col" class="py-1 pr-3 text-right font-semibold">95 % interval</th>
            <th scope="col" class="py-1 pr-3 text-right font-semibold">Mean</th>
            <th scope="col" class="py-1 pr-3 text-right font-semibold">Before</th>
            <th scope="col" class="py-1 pr-3 text-right font-semibold">Cases</th>
            <th scope="col" class="py-1 pr-3 font-semibold">What it says</th>
            <th v-if="exports" scope="col" class="py-1 font-semibold">Its conversations</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="f in figures" :key="f.name" class="border-b border-rule-soft align-top">
            <th scope="row" class="py-1 pr-3 text-left font-semibold">{{ f.title }}</th>
            <td class="py-1 pr-3 text-right whitespace-nowrap">{{ sayFigure(f.unit, f.value) }}</td>
            <td class="py-1 pr-3 text-right whitespace-nowrap">{{ sayInterval(f.unit, f) || '–' }}</td>
            <td class="py-1 pr-3 text-right whitespace-nowrap">
              {{ f.mean === null || f.mean === undefined || f.too_few ? '' : sayFigure(f.unit, f.mean) }}
            </td>
            <td class="py-1 pr-3 text-right whitespace-nowrap">{{ sayFigure(f.unit, f.before.value) }}</td>
            <td class="py-1 pr-3 text-right">{{ sayNumber(f.cases) }}</td>
            <td class="py-1 pr-3 text-ink-2">{{ f.says }}</td>
            <td v-if="exports" class="py-1 whitespace-nowrap">
              <template v-if="f.conversations"
                ><a class="text-pine underline" :href="exports(f.name, 'csv')" :aria-label="`${f.title}, as CSV`"
                  >CSV</a
                >
                <a class="ml-2 text-pine underline" :href="exports(f.name, 'xlsx')" :aria-label="`${f.title}, as XLSX`"
                  >XLSX</a
                ><a
                  class="ml-2 text-pine underline"
                  :href="exports(f.name, 'json')"
                  :aria-label="`${f.title}, with all that was said, as ActivityStreams`"
                  >JSON</a
                ></template
              >
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </details>
</template>
