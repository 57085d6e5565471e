<script setup lang="ts">
/** Where what waited at each day's end stood. */
import { computed } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import { api, take } from '@/api/client'
import type { ReportStanding } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAsk } from '@/composables/useAsk'
import { PHASES } from '@/lib/reports'
import { sayDay } from '@/lib/words'
import StackedDays, { type Part } from './StackedDays.vue'

const props = defineProps<{
  workspaceId: number
  query: Record<string, unknown>
  behind: (figure: string, more?: Record<string, string>) => RouteLocationRaw
}>()
const { data: standing, ask } = useAsk<ReportStanding>('Where it stood', {
  key: () => ['standing', props.workspaceId, JSON.stringify(props.query)],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/report/standing', {
        params: { path: { workspace_id: props.workspaceId }, query: props.query },
      }),
    ),
  placeholderData: (before) => before,
})
const names = computed(() => standing.value?.days.map((d) => sayDay(d)) ?? [])
const isOver = (n: number): boolean => standing.value?.rows[0]?.open_at_end[n] != null
/** Those at which something stood on some day, in the order of work. */
const parts = computed<Part[]>(() =>
  PHASES.map(([key, said, ink, opacity]) => ({
    key,
    said,
    ink,
    opacity,
    counts: standing.value?.rows.find((r) => r.phase === key)?.open_at_end ?? [],
  })).filter((p) => p.counts.some(Boolean)),
)
const says = computed(() => {
  const last = names.value.findLastIndex((_, n) => isOver(n))
  if (last < 0) return 'No day of the period is over yet.'
  const told = parts.value.map((p) => `${p.said} ${p.counts[last] ?? 0}`).join(', ')
  return `Bars by day. At the end of ${names.value[last]}: ${told || 'nothing waited'}. The table below has each day.`
})
const at = (day: number, phase: string): RouteLocationRaw => props.behind('open_at_end', { day: String(day), phase })
</script>

<template>
  <LoadState :of="ask" :lines="4">
    <StackedDays
      v-if="standing && parts.length"
      data-test="standing"
      title="Where it stood at each day’s end"
      :says="says"
      :height="170"
      :days="standing.days"
      :parts="parts"
      :to="at" />
  </LoadState>
</template>
