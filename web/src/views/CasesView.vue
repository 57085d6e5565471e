<script setup lang="ts">
/** All that was handed over: filters that act at once, the latest change first. */
import { useQueryCache } from '@pinia/colada'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import type { CaseState as State } from '@/api/types'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import LoadState from '@/components/ui/LoadState.vue'
import { useDirectory } from '@/composables/useDirectory'
import { isShown, type Notice } from '@/composables/useLive'
import AppFrame from '@/features/frame/AppFrame.vue'
import CaseState from '@/features/cases/CaseState.vue'
import { CASE_STATES, useCases, type CaseFilters } from '@/features/cases/useCases'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const cache = useQueryCache()
const { byNetwork, directory, sayMember } = useDirectory()
const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const isState = (value: unknown): value is State => CASE_STATES.some(([key]) => key === value)
const filters = computed<CaseFilters>(() => {
  const { state, desk, mine, words } = route.query
  const states = (Array.isArray(state) ? state : [state]).filter(isState)
  return {
    ...(states.length ? { state: states } : {}),
    ...(Number(desk) ? { desk: Number(desk) } : {}),
    ...(mine === 'true' ? { mine: true as const } : {}),
    ...(typeof words === 'string' && words ? { words } : {}),
  }
})
const { data, ask, problem, tryAgain } = useCases(workspaceId, filters)
const words = ref(filters.value.words ?? '')
watch(
  () => filters.value.words,
  (now) => (words.value = now ?? ''),
)
function set(next: CaseFilters): void {
  const query = Object.entries(next)
    .filter(([, v]) => v !== undefined && v !== '')
    .map(([k, v]) => [k, Array.isArray(v) ? v.map(String) : String(v)])
  void router.replace({
    name: 'cases',
    params: { workspace: String(workspaceId.value) },
    query: Object.fromEntries(query) as Record<string, string | string[]>,
  })
}
function change(one: Partial<CaseFilters>): void {
  set({ ...filters.value, ...one } as CaseFilters)
}
let timer: ReturnType<typeof setTimeout> | undefined
function search(): void {
  clearTimeout(timer)
  timer = setTimeout(() => change({ words: words.value.trim() }), 200)
}
function flip(state: State): void {
  const now = filters.value.state ?? []
  change({ state: now.includes(state) ? now.filter((s) => s !== state) : [...now, state] })
}
function onNotice(notice: Notice): void {
  if (notice.kind === 'cases' || notice.kind === 'everything')
    cache.invalidateQueries({ key: ['cases', workspaceId.value] }).catch(isShown)
}
const chip = (on: boolean): string =>
  on ? 'border-pine bg-pine-wash font-semibold text-pine' : 'border-rule bg-raised hover:bg-fold'
</script>

<template>
  <AppFrame @notice="onNotice">
    <main class="relative min-h-0 flex-1 scroll-quiet overflow-y-auto p-4 md:p-6">
      <div class="mx-auto max-w-5xl">
        <h1 class="mb-1 font-name text-2xl font-bold">Cases</h1>
        <p class="mb-3 text-[0.8125rem] text-ink-2">What was handed over to a support desk, and what it says.</p>
        <div class="mb-3 flex flex-wrap items-center gap-1.5 text-[0.78125rem]">
          <input
            v-model="words"
            type="search"
            class="w-56 rounded border border-rule bg-raised px-2 py-1 text-[0.8125rem]"
            placeholder="Name, reference or words"
            aria-label="Search cases"
            data-test="case-words"
            @input="search" />
          <button
            v-for="[key, word] in CASE_STATES"
            :key="key"
            type="button"
            class="rounded-full border px-2 py-0.5"
            :class="chip(filters.state?.includes(key) ?? false)"
            :aria-pressed="filters.state?.includes(key) ?? false"
            @click="flip(key)">
            {{ word }} <b>{{ data?.counts[key] ?? '' }}</b>
          </button>
          <button
            type="button"
            class="rounded-full border px-2 py-0.5"
            :class="chip(filters.mine === true)"
            :aria-pressed="filters.mine === true"
            @click="set(filters.mine ? (({ mine: _mine, ...rest }) => rest)(filters) : { ...filters, mine: true })">
            Handed over by me
          </button>
          <PickMenu
            v-if="(directory?.desks.length ?? 0) > 1"
            label="Desk"
            :choices="
              (directory?.desks ?? []).map((d) => ({
                value: d.id,
                text: d.name,
                hint: filters.desk === d.id ? 'set' : '',
              }))
            "
            @pick="
              (id) =>
                set(filters.desk === id ? (({ desk: _desk, ...rest }) => rest)(filters) : { ...filters, desk: id })
            "
            >Desk <span aria-hidden="true">▾</span></PickMenu
          >
          <button v-if="Object.keys(filters).length" type="button" class="font-semibold underline" @click="set({})">
            clear
          </button>
        </div>
        <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }}</p>
        <LoadState v-if="!data || ask.problem" :of="ask" />
        <ul v-if="data?.cases.length" class="rounded-md border border-rule bg-sheet" data-test="cases">
          <li
            v-for="one in data.cases"
            :key="one.id"
            class="grid grid-cols-[88px_minmax(0,1fr)] gap-x-4 border-b border-rule-soft px-4 py-2.5 text-[0.8125rem] last:border-0 md:grid-cols-[88px_minmax(0,1fr)_minmax(0,1fr)]"
            :data-case="one.id">
            <div class="flex flex-col items-start gap-1">
              <CaseState :state="one.state" /><span class="text-xs text-ink-2">{{ sayTime(one.state_at, zone) }}</span>
            </div>
            <div class="min-w-0">
              <RouterLink
                class="flex items-center gap-1.5 hover:underline"
                :to="{
                  name: 'desk',
                  params: { workspace: String(workspaceId), conversation: String(one.conversation_id) },
                }">
                <NetworkMark
                  :letters="byNetwork.get(one.network)?.letters ?? ''"
                  :name="byNetwork.get(one.network)?.name ?? one.network" /><b class="truncate">{{
                  one.person_name
                }}</b>
              </RouterLink>
              <p class="line-clamp-2" dir="auto">{{ one.preview }}</p>
              <p class="text-xs text-ink-2">
                {{ one.messages }} {{ one.messages === 1 ? 'message' : 'messages' }} to {{ one.desk_name
                }}<template v-if="one.reference"
                  >,
                  <a class="text-pine underline" :href="one.url ?? undefined" target="_blank" rel="noreferrer">{{
                    one.reference
                  }}</a></template
                >, by {{ one.rule_name ? `rule “${one.rule_name}”` : sayMember(one.opened_by) }}
                {{ sayTime(one.opened_at, zone) }}
              </p>
            </div>
            <div class="col-start-2 mt-1 min-w-0 md:col-start-3 md:mt-0">
              <p v-if="one.note" class="text-ink-2" dir="auto">{{ one.note }}</p>
              <p v-if="one.remarks.length" class="border-l-2 border-sky pl-2" dir="auto">
                <small class="font-semibold text-sky"
                  >{{ one.remarks.at(-1)?.by_name }}, {{ sayTime(one.remarks.at(-1)?.at ?? '', zone) }}</small
                ><br />{{ one.remarks.at(-1)?.text }}
              </p>
              <p v-if="one.problem" class="text-brick">
                {{ one.problem }}
                <button
                  v-if="one.next_at && session.may('sort')"
                  type="button"
                  class="font-semibold underline"
                  @click="tryAgain(one.id)">
                  Try now
                </button>
              </p>
            </div>
          </li>
        </ul>
        <p v-else-if="data" class="rounded-md border border-rule bg-sheet px-6 py-10 text-center text-ink-2">
          {{
            Object.keys(filters).length
              ? 'No case fits these filters.'
              : 'Nothing has been handed over yet. On the desk, Settle (E) leads to a desk.'
          }}
        </p>
      </div>
    </main>
  </AppFrame>
</template>
