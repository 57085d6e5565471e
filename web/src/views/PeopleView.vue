<script setup lang="ts">
/** Everybody who has spoken to us, and one of them in full. */
import { useAsk } from '@/composables/useAsk'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import type { DueFollowUp } from '@/api/types'
import { useClock } from '@/composables/useClock'
import { useKeys } from '@/composables/useKeys'
import type { Notice } from '@/composables/useLive'
import AppFrame from '@/features/frame/AppFrame.vue'
import MyFollowUps from '@/features/people/MyFollowUps.vue'
import PeopleList from '@/features/people/PeopleList.vue'
import PersonSheet from '@/features/people/PersonSheet.vue'
import {
  PEOPLE_ORDERS,
  readPeopleFilters,
  usePeople,
  type PeopleFilters,
  type PeopleOrder,
} from '@/features/people/usePeople'
import { useProfile } from '@/features/people/useProfile'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const { now } = useClock(30_000)
const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const openId = computed(() => ('person' in route.params && route.params.person ? Number(route.params.person) : null))
const filters = computed(() => readPeopleFilters(route.query))
const order = computed<PeopleOrder>(() => PEOPLE_ORDERS.find(([k]) => k === route.query.order)?.[0] ?? 'standing')
const people = usePeople(workspaceId, filters, order)
const state = useProfile(workspaceId, openId)
const { data: followUps, refetch } = useAsk<DueFollowUp[]>('Your follow-ups', {
  key: () => ['follow-ups', workspaceId.value],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/follow-ups', { params: { path: { workspace_id: workspaceId.value } } }),
    ),
})

const at = (id: number | null) => ({
  name: 'people' as const,
  params: { workspace: String(workspaceId.value), ...(id === null ? {} : { person: String(id) }) },
})
const go = (id: number | null): void => void router.push({ ...at(id), query: route.query })
function set(next: PeopleFilters, by: PeopleOrder = order.value): void {
  const query = Object.fromEntries(
    Object.entries(next).map(([k, v]) => [k, Array.isArray(v) ? v.map(String) : String(v)]),
  )
  void router.replace({ ...at(openId.value), query: { ...query, ...(by === 'standing' ? {} : { order: by }) } })
}
const exportUrl = computed(() => {
  const query = new URLSearchParams()
  for (const [name, value] of Object.entries(people.asked.value))
    for (const one of [value].flat()) query.append(name, String(one))
  return `/api/workspaces/${workspaceId.value}/people.csv?${query.toString()}`
})
function walk(step: number): void {
  const at = people.rows.value.findIndex((p) => p.id === openId.value)
  const next = people.rows.value[at < 0 ? 0 : Math.min(people.rows.value.length - 1, Math.max(0, at + step))]
  if (next) go(next.id)
}
useKeys({ ArrowDown: () => walk(1), ArrowUp: () => walk(-1), Escape: () => openId.value !== null && go(null) })
function onNotice(notice: Notice): void {
  if (notice.kind !== 'people' && notice.kind !== 'everything') return
  void people.reload()
  void refetch()
  if (openId.value !== null && (!notice.ids || notice.ids.includes(openId.value))) void state.refetch()
}
/** Nobody to show any more. */
async function gone(): Promise<void> {
  await router.replace({ ...at(null), query: route.query })
  await people.reload()
}
async function done(id: number): Promise<void> {
  await state.setDone(id, true)
  await refetch()
}
</script>

<template>
  <AppFrame @notice="onNotice">
    <main class="grid min-h-0 flex-1 grid-cols-1 md:grid-cols-[minmax(340px,440px)_minmax(0,1fr)]">
      <PeopleList
        :class="openId === null ? '' : 'hidden md:flex'"
        :people="people"
        :filters="filters"
        :order="order"
        :open-id="openId"
        :zone="zone"
        :may-export="session.may('export')"
        :export-url="exportUrl"
        @set="(f) => set(f)"
        @order="(o) => set(filters, o)"
        @open="go" />
      <PersonSheet
        v-if="openId !== null && state.profile.value"
        :key="state.profile.value.id"
        :person="state.profile.value"
        :state="state"
        :workspace-id="workspaceId"
        :zone="zone"
        :me="session.session?.member_id ?? 0"
        :may-sort="session.may('sort')"
        :may-moderate="session.may('moderate')"
        :may-export="session.may('export')"
        :may-erase="session.may('manage_accounts')"
        @erased="gone" />
      <p v-else-if="openId !== null && state.error.value" role="alert" class="bg-sheet p-8 text-brick">
        {{ state.error.value.message }}
      </p>
      <MyFollowUps
        v-else-if="openId === null"
        class="hidden md:block"
        :follow-ups="followUps ?? []"
        :workspace-id="workspaceId"
        :zone="zone"
        :now="now"
        @done="done" />
    </main>
  </AppFrame>
</template>
