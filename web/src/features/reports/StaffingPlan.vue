<script setup lang="ts">
/** How many people each hour needs, against who works then: a week of hours, and what to reach as a sentence. */
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import type { Staffing } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import { useAsk } from '@/composables/useAsk'
import { HOURS, saySpan, WEEKDAYS } from '@/lib/reports'
import { useSession } from '@/stores/session'

const props = defineProps<{ workspaceId: number; query: Record<string, unknown> }>()
const session = useSession()
const within = ref(60)
const share = ref(0.9)
const handling = ref<number | null>(null)
const { data: plan, ask } = useAsk<Staffing>('The staffing', {
  key: () => [
    'staffing',
    props.workspaceId,
    JSON.stringify(props.query),
    within.value,
    share.value,
    handling.value ?? 0,
  ],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/staffing', {
        params: {
          path: { workspace_id: props.workspaceId },
          query: {
            ...props.query,
            within: within.value,
            share: share.value,
            ...(handling.value ? { handling: handling.value } : {}),
          },
        },
      }),
    ),
  placeholderData: (before) => before,
})
const shownHours = computed(() => HOURS.filter((h) => WEEKDAYS.some((_, d) => plan.value?.hours[d * 24 + h]?.is_open)))
const gapOf = (cell: number): number => {
  const hour = plan.value?.hours[cell]
  return hour ? (hour.needed ?? 999) - hour.on_shift : 0
}
/** 'Sat 10 to 12 needs one more': neighbouring hours of a day that lack as many. */
const gaps = computed(() => {
  const found: string[] = []
  for (const [d, day] of WEEKDAYS.entries())
    for (let h = 0; h < 24; h++) {
      const gap = gapOf(d * 24 + h)
      if (gap <= 0) continue
      let end = h + 1
      while (end < 24 && gapOf(d * 24 + end) === gap) end++
      found.push(`${day} ${h} to ${end}: ${gap > 900 ? 'more than can be planned for' : `${gap} more`}`)
      h = end - 1
    }
  return found
})
const SOURCES = { given: 'as set here', timed: 'as timed', assumed: 'assumed, for too few answers were timed' }
const list = (of: number[], say: (n: number) => string) => of.map((value) => ({ value, text: say(value) }))
const minutes = (n: number): string => saySpan(n * 60)
const percent = (n: number): string => `${Math.round(n * 100)} %`
</script>

<template>
  <section class="break-inside-avoid" data-test="staffing">
    <h2 class="font-name text-[0.9375rem] font-bold">How many people each hour needs</h2>
    <div class="flex flex-wrap items-center gap-1.5 text-[0.8125rem]">
      so that
      <PickMenu label="Share" :choices="list([0.8, 0.9, 0.95], percent)" @pick="(n: number) => (share = n)"
        >{{ percent(share) }} <span aria-hidden="true" class="text-ink-2">▾</span></PickMenu
      >
      of what comes in is begun within
      <PickMenu label="Within" :choices="list([10, 30, 60, 120, 240], minutes)" @pick="(n: number) => (within = n)"
        >{{ minutes(within) }} <span aria-hidden="true" class="text-ink-2">▾</span></PickMenu
      >, where an answer takes
      <PickMenu
        label="An answer takes"
        :choices="[{ value: 0, text: 'as timed' }, ...list([2, 4, 6, 10, 15], minutes)]"
        @pick="(n: number) => (handling = n || null)"
        >{{ plan ? saySpan(plan.handling) : '…' }} <span aria-hidden="true" class="text-ink-2">▾</span></PickMenu
      >
      <span v-if="plan" class="text-ink-2">({{ SOURCES[plan.source] }})</span>
    </div>
    <LoadState :of="ask">
      <template v-if="plan">
        <p class="mt-1 font-semibold" data-test="gaps">
          {{ gaps.length ? `${gaps.join('; ')}.` : 'Enough people work in every open hour.' }}
        </p>
        <div
          class="mt-1 scroll-quiet overflow-x-auto"
          tabindex="0"
          role="region"
          aria-label="People by hour of the week">
          <table class="text-xs">
            <thead>
              <tr class="text-ink-2">
                <th scope="col"><span class="sr-only">Day</span></th>
                <th v-for="h in shownHours" :key="h" scope="col" class="px-2 py-0.5 font-semibold">{{ h }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(day, d) in WEEKDAYS" :key="day">
                <th scope="row" class="pr-2 text-left font-semibold">{{ day }}</th>
                <td
                  v-for="h in shownHours"
                  :key="h"
                  class="border border-sheet px-2 py-0.5 text-center whitespace-nowrap"
                  :class="
                    !plan.hours[d * 24 + h]?.is_open
                      ? 'text-ink-2'
                      : gapOf(d * 24 + h) > 0
                        ? 'bg-brick-wash font-semibold text-brick'
                        : 'bg-pine-wash'
                  ">
                  <template v-if="plan.hours[d * 24 + h]?.is_open"
                    >{{ plan.hours[d * 24 + h]?.needed ?? 'too many' }} of
                    {{ plan.hours[d * 24 + h]?.on_shift }}</template
                  ><template v-else>closed</template>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p class="mt-1 text-xs text-ink-2">
          Needed of those who work then. By Erlang’s delay formula, which takes messages to come at random and every
          hour for itself; what comes in while it is closed waits for the opening and is not in it.
          <template v-if="!session.workspace?.limited">
            <RouterLink
              class="font-semibold text-pine underline print:hidden"
              data-test="to-what-if"
              :to="{ name: 'what-if', params: { workspace: String(workspaceId) } }"
              >What if: play the last days again</RouterLink
            >
            with other people, hours, targets or rules.
          </template>
        </p>
      </template>
    </LoadState>
  </section>
</template>
