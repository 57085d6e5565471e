<script setup lang="ts">
/** How what came in read, day by day and by account. */
import { computed } from 'vue'
import { RouterLink, type RouteLocationRaw } from 'vue-router'
import type { Report } from '@/api/types'
import { sayFigure } from '@/lib/reports'
import { sayDay } from '@/lib/words'
import StackedDays, { type Part } from './StackedDays.vue'

const props = defineProps<{
  report: Report
  sayKey: (by: string, key: string) => string
  behind: (figure: string, more?: Record<string, string>) => RouteLocationRaw
}>()
const KINDS = [
  ['negative', '-1', 'brickLine'],
  ['neutral', '0', 'rule'],
  ['positive', '1', 'pineLine'],
] as const
const names = computed(() => props.report.days.days.map((d) => sayDay(d)))
const sum = (of: number[]): number => of.reduce((a, b) => a + b, 0)
const says = computed(() => {
  const { negative, neutral, positive } = props.report.sentiments
  const most = Math.max(0, ...negative)
  const worst = most ? ` Most negative ones came on ${names.value[negative.indexOf(most)]}: ${most}.` : ''
  return `By day, how what came in read: ${sum(negative)} negative, ${sum(neutral)} neutral, ${sum(positive)} positive.${worst} The table below has each day.`
})
const parts = computed<Part[]>(() =>
  KINDS.map(([said, key, ink]) => ({ key, said, ink, counts: props.report.sentiments[said] })),
)
const at = (day: number, code: string): RouteLocationRaw =>
  props.behind('came_in', { day: String(day), sentiment: code })
</script>

<template>
  <div class="grid grid-cols-[minmax(0,1fr)] gap-6 xl:grid-cols-2" data-test="sentiments">
    <StackedDays title="How it sounded" :says="says" :height="190" :days="report.days.days" :parts="parts" :to="at" />
    <section class="break-inside-avoid">
      <h2 class="mb-1 font-name text-[0.9375rem] font-bold">How it sounded, by account</h2>
      <div class="scroll-quiet overflow-x-auto" tabindex="0" role="region" aria-label="How it sounded, by account">
        <table class="w-full text-[0.8125rem]">
          <thead>
            <tr class="border-b border-rule text-left text-xs text-ink-2">
              <th scope="col" class="py-1 font-semibold">Account</th>
              <th v-for="[name] in KINDS" :key="name" scope="col" class="py-1 pl-3 text-right font-semibold">
                {{ name }}
              </th>
              <th scope="col" class="py-1 pl-3 text-right font-semibold">Negative, of these</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="m in report.moods" :key="m.key" class="border-b border-rule-soft">
              <th scope="row" class="py-1 text-left font-semibold">{{ sayKey('account', String(m.key)) }}</th>
              <td v-for="[name, code] in KINDS" :key="name" class="py-1 text-right">
                <RouterLink
                  v-if="m[name]"
                  class="underline"
                  :to="behind('came_in', { account: String(m.key), sentiment: code })"
                  >{{ m[name] }}</RouterLink><template v-else>0</template>
              </td>
              <td class="py-1 pl-3 text-right whitespace-nowrap">
                <template v-if="m.share.too_few">too few</template
                ><template v-else
                  >{{ sayFigure('share', m.share.value) }}
                  <span class="text-xs text-ink-2"
                    >({{ sayFigure('share', m.share.low) }} to {{ sayFigure('share', m.share.high) }})</span
                  ></template
                >
              </td>
            </tr>
            <tr v-if="!report.moods.length">
              <td colspan="5" class="py-2 text-ink-2">Nothing of it was read as one or the other.</td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
  </div>
</template>
