<script setup lang="ts">
/** What else was done in the period: by rules, approvals, saved replies, links, cases; of the whole workspace. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import type { Doings } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { sayNumber, saySpan } from '@/lib/reports'

const props = defineProps<{ workspaceId: number; query: Record<string, unknown> }>()
/** Only the period counts here. */
const period = computed(() => {
  const { period, since, until } = props.query
  return Object.fromEntries(Object.entries({ period, since, until }).filter(([, v]) => v !== undefined))
})
const { data: doings, ask } = useAsk<Doings>('What else was done', {
  key: () => ['doings', props.workspaceId, JSON.stringify(period.value)],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/report/doings', {
        params: { path: { workspace_id: props.workspaceId }, query: period.value },
      }),
    ),
  placeholderData: (before) => before,
})
const STATES: Record<string, string> = {
  waiting: 'still wait',
  approved: 'approved',
  sent_back: 'sent back',
  withdrawn: 'withdrawn',
}
const span = (seconds: number | null): string => (seconds === null ? '–' : saySpan(seconds))
interface Table {
  title: string
  head: string[]
  rows: string[][]
  to?: string
}
const tables = computed<Table[]>(() => {
  const d = doings.value
  if (!d) return []
  return [
    {
      title: 'Rules, by themselves',
      to: 'rules',
      head: ['Rule', 'Messages', 'Conversations', 'What it did'],
      rows: d.rules.map((r) => [
        `${r.name}${r.removed ? ' (removed)' : ''}`,
        sayNumber(r.messages),
        sayNumber(r.conversations),
        Object.entries(r.effects)
          .map(([effect, n]) => `${effect.replaceAll('_', ' ')} ${n}`)
          .join(', '),
      ]),
    },
    {
      title: 'Approvals',
      to: 'approvals',
      head: ['Answers put up for approval', 'How many', 'Half decided within', '9 of 10 within'],
      rows: d.approvals.map((a) => [STATES[a.state] ?? a.state, sayNumber(a.n), span(a.half), span(a.nine)]),
    },
    {
      title: 'Saved replies',
      head: ['Saved reply', 'Used', 'By members'],
      rows: d.saved_replies.map((s) => [
        `${s.name}${s.archived ? ' (archived)' : ''}`,
        sayNumber(s.n),
        String(s.members),
      ]),
    },
    {
      title: 'Links',
      head: ['Short link to', 'Opened', 'By programs and members, not counted'],
      rows: d.links.map((l) => [l.target, sayNumber(l.clicks), sayNumber(l.apart)]),
    },
    {
      title: 'Cases handed over',
      to: 'cases',
      head: ['Desk', 'Stand as', 'How many', 'Half since handing over'],
      rows: d.cases.map((c) => [c.desk, c.state, sayNumber(c.n), span(c.half)]),
    },
  ].filter((t) => t.rows.length)
})
</script>

<template>
  <section data-test="doings">
    <h2 class="font-name text-[0.9375rem] font-bold">What else was done</h2>
    <p class="text-xs text-ink-2">In the whole workspace in these days, whatever else is chosen above.</p>
    <LoadState :of="ask">
      <p v-if="doings" class="mt-1 text-[0.8125rem]">Members sent {{ sayNumber(doings.replies) }} replies.</p>
      <div v-for="t in tables" :key="t.title" class="mt-3 break-inside-avoid">
        <h3 class="text-[0.8125rem] font-bold">
          <RouterLink
            v-if="t.to"
            class="hover:underline"
            :to="{ name: t.to as 'rules', params: { workspace: String(workspaceId) } }"
            >{{ t.title }}</RouterLink><template v-else>{{ t.title }}</template>
        </h3>
        <div class="scroll-quiet overflow-x-auto" tabindex="0" role="region" :aria-label="t.title">
          <table class="w-full text-[0.8125rem]">
            <thead>
              <tr class="border-b border-rule text-left text-xs text-ink-2">
                <th v-for="h in t.head" :key="h" scope="col" class="py-1 pr-4 font-semibold">{{ h }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in t.rows" :key="row.join()" class="border-b border-rule-soft">
                <td v-for="(cell, n) in row" :key="n" class="py-1 pr-4" :class="n ? '' : 'font-semibold'">
                  {{ cell }}
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </div>
    </LoadState>
  </section>
</template>
