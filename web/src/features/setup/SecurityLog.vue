<script setup lang="ts">
/** The security log: signing in, who may do what, secrets, holds and exports, newest first. */
import { computed } from 'vue'
import { api, take } from '@/api/client'
import type { SecurityEntry } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAskPages } from '@/composables/useAsk'
import { sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; zone: string }>()
/** As many as the server gives at once; fewer are the last. */
const PAGE = 100
const { pages, hasMore, more, ask } = useAskPages<SecurityEntry[], number>('The security log', {
  key: () => ['security-log', props.workspaceId],
  query: (before) =>
    take(
      api.GET('/api/workspaces/{workspace_id}/security-log', {
        params: { path: { workspace_id: props.workspaceId }, query: { before } },
      }),
    ),
  next: (page) => (page.length < PAGE ? null : (page.at(-1)?.id ?? null)),
})
const entries = computed(() => pages.value?.flat() ?? [])
</script>

<template>
  <section class="mb-8" aria-labelledby="security-title">
    <h2 id="security-title" class="font-name text-lg font-bold">Security log</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Signing in, who may do what, secrets, holds and exports. Nobody can change it. What was changed, before and after,
      is in the
      <RouterLink
        class="font-semibold text-pine underline"
        :to="{ name: 'record', params: { workspace: String(workspaceId) } }"
        >record of changes</RouterLink
      >.
    </p>
    <LoadState :of="ask">
      <p v-if="!entries.length" class="text-[0.8125rem] text-ink-2">Nothing has happened yet.</p>
      <ol
        v-else
        class="max-h-96 overflow-y-auto rounded-md border border-rule bg-sheet"
        tabindex="0"
        aria-label="Entries">
        <li
          v-for="e in entries"
          :key="e.id"
          class="flex flex-wrap items-baseline gap-x-3 border-b border-rule-soft px-4 py-1.5 text-[0.8125rem] last:border-0"
          data-test="security-entry">
          <span class="w-28 shrink-0 whitespace-nowrap text-ink-2">{{ sayTime(e.at, zone) }}</span>
          <span class="min-w-0 flex-1"
            ><b class="font-semibold">{{ e.name }}</b> {{ e.words
            }}<span v-if="e.came_from" class="text-ink-2"> from {{ e.came_from }}</span></span
          >
        </li>
      </ol>
      <button
        v-if="hasMore"
        type="button"
        class="mt-2 rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold"
        @click="more()">
        Older entries
      </button>
    </LoadState>
  </section>
</template>
