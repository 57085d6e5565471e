<script setup lang="ts">
/** The record of changes: who changed what is administered, when, from where, and how it was and is. */
import { computed } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import type { RecordPage } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import { useAskPages } from '@/composables/useAsk'
import { useDirectory } from '@/composables/useDirectory'
import AppFrame from '@/features/frame/AppFrame.vue'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

/** As many as the server gives at once; fewer are the last. */
const PAGE = 100
const session = useSession()
const route = useRoute()
const router = useRouter()
const { everybody } = useDirectory()
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const FILTERS = ['what', 'member', 'since', 'until'] as const
type Filter = (typeof FILTERS)[number]
const chosen = computed<Partial<Record<Filter, string>>>(() =>
  Object.fromEntries(
    FILTERS.map((f) => [f, route.query[f]]).filter(
      (one): one is [Filter, string] => typeof one[1] === 'string' && one[1] !== '',
    ),
  ),
)
const query = computed(() => {
  const { member, ...rest } = chosen.value
  return { ...rest, ...(member ? { member: Number(member) } : {}) }
})
const load = (before: number | null): Promise<RecordPage> =>
  take(
    api.GET('/api/workspaces/{workspace_id}/record', {
      params: { path: { workspace_id: session.workspaceId }, query: { ...query.value, before } },
    }),
  )
const { pages, hasMore, more, ask } = useAskPages<RecordPage, number>('The record of changes', {
  key: () => ['record', session.workspaceId, JSON.stringify(query.value)],
  query: load,
  next: ({ entries }) => (entries.length < PAGE ? null : (entries.at(-1)?.n ?? null)),
  staleTime: 0,
  enabled: () => session.may('manage_members'),
})
const entries = computed(() => pages.value?.flatMap((page) => page.entries) ?? [])
const set = (filter: Filter, event: Event): void => {
  const { value } = event.target as HTMLInputElement | HTMLSelectElement
  void router.replace({ query: { ...chosen.value, [filter]: value || undefined } })
}
const file = computed(
  () =>
    `/api/workspaces/${session.workspaceId}/record.csv?${new URLSearchParams(chosen.value as Record<string, string>)}`,
)
const field = 'rounded border border-rule bg-raised px-2 py-1'
</script>

<template>
  <AppFrame>
    <main class="min-h-0 flex-1 scroll-quiet overflow-y-auto bg-sheet p-4 md:px-6">
      <div class="flex flex-wrap items-baseline justify-between gap-2">
        <h1 class="font-name text-2xl font-bold">Record of changes</h1>
        <RouterLink
          class="font-semibold text-pine underline"
          :to="{ name: 'setup', params: { workspace: String(session.workspaceId) } }"
          >Setup</RouterLink
        >
      </div>
      <p v-if="!session.may('manage_members')" class="mt-2" role="status">
        The record of changes is for who manages members. An Owner can give you a role that does.
      </p>
      <template v-else>
        <p class="mb-3 max-w-3xl text-[0.8125rem] text-ink-2">
          Every change of accounts, members, roles, rules, policies, hours and whatever else is set up. Nobody can
          change it; an entry that was tampered with shows when the record is checked.
        </p>
        <form class="mb-3 flex flex-wrap items-end gap-3 text-[0.8125rem]" aria-label="Filter" @submit.prevent>
          <label
            ><span class="mb-0.5 block text-xs font-semibold text-ink-2">What</span
            ><select :class="field" :value="chosen.what ?? ''" data-test="record-what" @change="set('what', $event)">
              <option value="">everything</option>
              <option v-for="t in pages?.[0]?.things ?? []" :key="t.key" :value="t.key">{{ t.words }}</option>
            </select></label
          >
          <label
            ><span class="mb-0.5 block text-xs font-semibold text-ink-2">By</span
            ><select
              :class="field"
              :value="chosen.member ?? ''"
              data-test="record-member"
              @change="set('member', $event)">
              <option value="">everybody</option>
              <option v-for="m in everybody ?? []" :key="m.id" :value="String(m.id)">{{ m.name }}</option>
            </select></label
          >
          <label
            ><span class="mb-0.5 block text-xs font-semibold text-ink-2">From</span
            ><input type="date" :class="field" :value="chosen.since ?? ''" @change="set('since', $event)"
          /></label>
          <label
            ><span class="mb-0.5 block text-xs font-semibold text-ink-2">Until</span
            ><input type="date" :class="field" :value="chosen.until ?? ''" @change="set('until', $event)"
          /></label>
          <a
            v-if="session.may('export')"
            class="rounded border border-rule bg-raised px-2.5 py-1 font-semibold hover:bg-fold"
            :href="file"
            download
            >As a table (CSV)</a
          >
        </form>
        <LoadState :of="ask" :lines="8">
          <p v-if="!entries.length" class="rounded-md border border-rule px-4 py-8 text-center text-ink-2">
            Nothing was changed, as far as these filters let through.
          </p>
          <ol v-else class="rounded-md border border-rule text-[0.8125rem]">
            <li
              v-for="e in entries"
              :key="e.n"
              class="border-b border-rule-soft last:border-0"
              data-test="record-entry">
              <details>
                <summary class="flex cursor-pointer flex-wrap items-baseline gap-x-3 px-4 py-1.5 hover:bg-fold">
                  <span class="w-28 shrink-0 whitespace-nowrap text-ink-2">{{ sayTime(e.at, zone) }}</span>
                  <span class="min-w-0 flex-1 break-words"
                    ><b class="font-semibold">{{ e.by ?? 'By itself' }}</b
                    >: {{ e.thing }}<template v-if="e.name"> “{{ e.name }}”</template> {{ e.did }}</span
                  >
                  <span class="shrink-0 text-xs text-ink-2"
                    ><template v-if="e.came_from">from {{ e.came_from }} · </template>no. {{ e.n }}</span
                  >
                </summary>
                <div
                  class="scroll-quiet overflow-x-auto px-4 pb-3"
                  tabindex="0"
                  role="region"
                  :aria-label="`Change ${e.n}`">
                  <table class="w-full">
                    <thead>
                      <tr class="border-b border-rule text-left text-xs text-ink-2">
                        <th scope="col" class="py-1 pr-4 font-semibold">Where</th>
                        <th scope="col" class="py-1 pr-4 font-semibold">Before</th>
                        <th scope="col" class="py-1 font-semibold">After</th>
                      </tr>
                    </thead>
                    <tbody>
                      <tr v-for="l in e.lines" :key="l.where" class="border-b border-rule-soft align-top">
                        <th scope="row" class="py-1 pr-4 text-left font-normal text-ink-2">{{ l.where }}</th>
                        <td class="max-w-96 py-1 pr-4 break-words">{{ l.before ?? '–' }}</td>
                        <td class="max-w-96 py-1 break-words">{{ l.after ?? '–' }}</td>
                      </tr>
                    </tbody>
                  </table>
                  <p v-if="e.more" class="mt-1 text-xs text-ink-2">and {{ e.more }} more</p>
                </div>
              </details>
            </li>
          </ol>
          <button
            v-if="hasMore"
            type="button"
            class="mt-3 rounded border border-rule bg-raised px-3 py-1.5 font-semibold hover:bg-fold"
            @click="more()">
            Older ones
          </button>
        </LoadState>
      </template>
    </main>
  </AppFrame>
</template>
