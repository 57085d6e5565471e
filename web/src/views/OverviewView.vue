<script setup lang="ts">
/** Open work by two things at once, each cell leading to its queue; beside it everything that comes in. */
import { computed, ref } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import type { Dimension, Move } from '@/api/types'
import PickMenu from '@/components/ui/PickMenu.vue'
import { useDirectory } from '@/composables/useDirectory'
import type { Notice } from '@/composables/useLive'
import { useSoon } from '@/composables/useSoon'
import AppFrame from '@/features/frame/AppFrame.vue'
import CrossTab from '@/features/overview/CrossTab.vue'
import LiveFeed from '@/features/overview/LiveFeed.vue'
import { DIMENSIONS, isDimension } from '@/features/overview/useCross'
import { MOVE_WORDS, MOVES } from '@/lib/words'
import { useSession } from '@/stores/session'

const session = useSession()
const { directory } = useDirectory()
const route = useRoute()
const router = useRouter()
const cross = ref<InstanceType<typeof CrossTab> | null>(null)
const feed = ref<InstanceType<typeof LiveFeed> | null>(null)

const rows = computed<Dimension>(() => (isDimension(route.query.rows) ? route.query.rows : 'account'))
const columns = computed<Dimension>(() =>
  isDimension(route.query.columns) && route.query.columns !== rows.value
    ? route.query.columns
    : rows.value === 'move'
      ? 'priority'
      : 'move',
)
const isByMove = computed(() => rows.value === 'move' || columns.value === 'move')
/** A queue stands at one move: where moves are neither rows nor columns, one is chosen. */
const move = computed<Move | null>(() =>
  isByMove.value ? null : (MOVES.find(([k]) => k === route.query.move && k !== 'settled')?.[0] ?? 'our_move'),
)
const words = (of: Dimension): string => DIMENSIONS.find(([k]) => k === of)?.[1] ?? ''
const choices = (not: Dimension) => DIMENSIONS.filter(([k]) => k !== not).map(([value, text]) => ({ value, text }))
function set(change: Record<string, string>): void {
  void router.replace({
    query: { rows: rows.value, columns: columns.value, ...(move.value ? { move: move.value } : {}), ...change },
  })
}
const soon = useSoon(() => cross.value?.refetch(), 800)
function onNotice(notice: Notice): void {
  if (!['conversations', 'reaction', 'everything'].includes(notice.kind)) return
  feed.value?.soon()
  soon()
}
</script>

<template>
  <AppFrame @notice="onNotice">
    <main
      class="grid min-h-0 flex-1 grid-rows-[minmax(0,1fr)_minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_344px] lg:grid-rows-1">
      <div class="min-h-0 scroll-quiet overflow-y-auto p-4 md:p-6">
        <h1 class="mb-1 flex items-baseline gap-4 font-name text-2xl font-bold">
          Overview
          <RouterLink
            class="ml-auto font-sans text-[0.8125rem] font-semibold text-pine underline"
            :to="{ name: 'outgoing', params: { workspace: String(session.workspaceId) } }"
            data-test="to-outgoing"
            >Outgoing</RouterLink
          ><RouterLink
            class="font-sans text-[0.8125rem] font-semibold text-pine underline"
            :to="{ name: 'draws', params: { workspace: String(session.workspaceId) } }"
            >Prize draws</RouterLink
          ><RouterLink
            v-if="directory?.desks.length"
            class="font-sans text-[0.8125rem] font-semibold text-pine underline"
            :to="{ name: 'cases', params: { workspace: String(session.workspaceId) } }"
            data-test="to-cases"
            >Cases handed over</RouterLink
          >
        </h1>
        <div class="mb-3 flex flex-wrap items-center gap-2 text-[0.8125rem]" data-test="axes">
          <span>Open work by</span>
          <PickMenu label="Rows" :choices="choices(columns)" @pick="(of) => set({ rows: of })"
            ><b>{{ words(rows).toLowerCase() }}</b> <span aria-hidden="true">▾</span></PickMenu
          >
          <span>and</span>
          <PickMenu label="Columns" :choices="choices(rows)" @pick="(of) => set({ columns: of })"
            ><b>{{ words(columns).toLowerCase() }}</b> <span aria-hidden="true">▾</span></PickMenu
          >
          <template v-if="move">
            <span>standing at</span>
            <PickMenu
              label="Move"
              :choices="MOVES.filter(([k]) => k !== 'settled').map(([value, text]) => ({ value, text }))"
              @pick="(to) => set({ move: to })"
              ><b>{{ MOVE_WORDS[move] }}</b> <span aria-hidden="true">▾</span></PickMenu
            >
          </template>
        </div>
        <CrossTab ref="cross" :workspace-id="session.workspaceId" :rows="rows" :columns="columns" :move="move" />
      </div>
      <LiveFeed ref="feed" :workspace-id="session.workspaceId" :zone="session.workspace?.time_zone ?? 'UTC'" />
    </main>
  </AppFrame>
</template>
