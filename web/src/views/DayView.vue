<script setup lang="ts">
/** One member's day: what is owed, what comes back, what is waited for, and what was done. */
import { computed } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import type { MemberDay } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import PriorityNotches from '@/components/ui/PriorityNotches.vue'
import { useAsk } from '@/composables/useAsk'
import { useClock } from '@/composables/useClock'
import { useDirectory } from '@/composables/useDirectory'
import type { Notice } from '@/composables/useLive'
import { useSoon } from '@/composables/useSoon'
import DayRow from '@/features/day/DayRow.vue'
import AppFrame from '@/features/frame/AppFrame.vue'
import { MOVE_WORDS, PRIORITIES, sayDay, sayDue, sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

/** What was done, as one says it: 'answered 12'. What is not here is said together as sorting. */
const DONE: Record<string, string> = {
  replied: 'answered',
  scheduled: 'answered for later',
  settled: 'settled',
  handed_over: 'handed over',
  proposed: 'put up for approval',
  consented: 'approved',
  sent_back: 'sent back',
  assigned: 'passed on or taken',
  parked: 'parked',
  noted: 'noted',
  advice_asked: 'asked outside',
  moderated: 'acted on the network',
}
const AWAITED = { approval: 'approval by', advice: 'advice of', case: 'the case with' } as const

const session = useSession()
const route = useRoute()
const router = useRouter()
const { byNetwork, members } = useDirectory()
const { now } = useClock(30_000)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const whose = computed(() => Number(route.params.member) || null)
const {
  data: day,
  ask,
  refetch,
} = useAsk<MemberDay>('The day', {
  key: () => ['day', session.workspaceId, whose.value ?? 0],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/day', {
        params: { path: { workspace_id: session.workspaceId }, query: whose.value ? { member: whose.value } : {} },
      }),
    ),
})
const soon = useSoon(refetch, 800)
function onNotice(notice: Notice): void {
  if (['conversations', 'approvals', 'cases', 'team', 'everything'].includes(notice.kind)) soon()
}
const isMine = computed(() => !day.value || day.value.member.member_id === session.session?.member_id)
const openByMove = computed(() => {
  const sums = new Map<string, number>()
  for (const cell of day.value?.member.open ?? []) sums.set(cell.move, (sums.get(cell.move) ?? 0) + cell.n)
  return [...sums].map(([move, n]) => ({ move, n }))
})
const done = computed(() => {
  const counts = day.value?.counts ?? []
  const said = counts.filter((c) => c.kind in DONE).map((c) => `${DONE[c.kind]} ${c.n}`)
  const sorted = counts.filter((c) => !(c.kind in DONE)).reduce((sum, c) => sum + c.n, 0)
  return [...said, ...(sorted ? [`sorted ${sorted}`] : [])].join(', ')
})
const sayKinds = (kinds: string[]): string => [...new Set(kinds.map((k) => DONE[k] ?? 'sorted'))].join(', ')
const desk = (id: number) => ({
  name: 'desk' as const,
  params: { workspace: String(session.workspaceId), conversation: String(id) },
})
const person = (id: number) => ({
  name: 'people' as const,
  params: { workspace: String(session.workspaceId), person: String(id) },
})
const queue = (move: string) => ({
  name: 'desk' as const,
  params: { workspace: String(session.workspaceId) },
  query: { move, owner: isMine.value ? 'me' : String(day.value?.member.member_id) },
})
const pick = (id: number): unknown =>
  router.push({
    name: 'day',
    params: { workspace: String(session.workspaceId), member: id === session.session?.member_id ? '' : String(id) },
  })
</script>

<template>
  <AppFrame @notice="onNotice">
    <main class="min-h-0 flex-1 scroll-quiet overflow-y-auto p-4 md:p-6">
      <div class="mx-auto max-w-5xl">
        <header class="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <h1 class="font-name text-2xl font-bold">{{ isMine ? 'My day' : `The day of ${day?.member.name}` }}</h1>
          <p v-if="day" class="text-[0.8125rem] text-ink-2">{{ sayDay(day.day) }}, by the clock of {{ zone }}</p>
          <div v-if="session.may('see_reports')" class="ml-auto">
            <PickMenu
              label="Whose day"
              align="right"
              :choices="(members ?? []).map((m) => ({ value: m.id, text: m.name }))"
              @pick="pick"
              >{{ day?.member.name ?? 'Member' }} <span aria-hidden="true" class="text-ink-2">▾</span></PickMenu
            >
          </div>
        </header>
        <LoadState :of="ask" :lines="8">
          <template v-if="day">
            <p class="mb-4 text-[0.84375rem]" data-test="open">
              <template v-if="openByMove.length"
                >Open:
                <template v-for="(one, n) in openByMove" :key="one.move"
                  >{{ n ? ', ' : ''
                  }}<RouterLink class="font-semibold text-pine underline" :to="queue(one.move)"
                    >{{ one.n }} {{ MOVE_WORDS[one.move]?.toLowerCase() }}</RouterLink
                  ></template
                ><template v-if="day.member.late"
                  >; <b class="text-brick">{{ day.member.late }} late</b></template
                >.</template
              ><template v-else>Nothing is open.</template>
            </p>
            <div class="grid gap-x-8 gap-y-6 lg:grid-cols-2">
              <section aria-labelledby="due" data-test="due">
                <h2 id="due" class="border-b border-rule pb-1 font-name text-[0.9375rem] font-bold">
                  Due today <span class="font-sans font-normal text-ink-2">{{ day.due_total }}</span>
                </h2>
                <ol>
                  <li v-for="d in day.due" :key="d.conversation_id" class="border-b border-rule-soft py-1.5">
                    <RouterLink :to="desk(d.conversation_id)" class="flex items-center gap-2 hover:underline">
                      <PriorityNotches :priority="d.priority" :word="PRIORITIES[d.priority] ?? ''" /><NetworkMark
                        :letters="byNetwork.get(d.network)?.letters ?? ''"
                        :name="byNetwork.get(d.network)?.name ?? d.network" /><b class="shrink-0">{{ d.person_name }}</b
                      ><span class="min-w-0 flex-1 truncate text-ink-2" dir="auto">{{ d.preview }}</span
                      ><span
                        class="text-xs whitespace-nowrap"
                        :class="sayDue(d.due, now).late ? 'font-semibold text-brick' : 'text-ink-2'"
                        >{{ sayDue(d.due, now).words }}</span
                      ></RouterLink
                    >
                  </li>
                  <li v-if="!day.due.length" class="py-2 text-ink-2">Nothing more falls due today.</li>
                  <li v-if="day.due_total > day.due.length" class="py-1.5 text-[0.8125rem] text-ink-2">
                    and {{ day.due_total - day.due.length }} more
                  </li>
                </ol>
                <template v-if="day.sent_back.length">
                  <h2 class="mt-5 border-b border-rule pb-1 font-name text-[0.9375rem] font-bold">
                    Sent back, to be written again
                  </h2>
                  <ol data-test="sent-back">
                    <li v-for="s in day.sent_back" :key="s.conversation_id" class="border-b border-rule-soft py-1.5">
                      <RouterLink :to="desk(s.conversation_id)" class="hover:underline"
                        ><b>{{ s.person_name }}</b
                        >: <span dir="auto">{{ s.words ?? 'no reason given' }}</span></RouterLink
                      >
                      <span class="text-xs text-ink-2"> {{ s.from_name }}, {{ sayTime(s.at, zone) }}</span>
                    </li>
                  </ol>
                </template>
                <template v-if="day.returning.length">
                  <h2 class="mt-5 border-b border-rule pb-1 font-name text-[0.9375rem] font-bold">Comes back today</h2>
                  <ol>
                    <DayRow
                      v-for="r in day.returning"
                      :key="r.conversation_id"
                      :to="desk(r.conversation_id)"
                      :name="r.person_name"
                      :words="r.preview"
                      :when="sayTime(r.at, zone)" />
                  </ol>
                </template>
                <template v-if="day.later.length">
                  <h2 class="mt-5 border-b border-rule pb-1 font-name text-[0.9375rem] font-bold">
                    Goes out by itself
                  </h2>
                  <ol>
                    <DayRow
                      v-for="l in day.later"
                      :key="l.conversation_id"
                      :to="desk(l.conversation_id)"
                      :name="l.person_name"
                      :words="l.words"
                      :when="sayTime(l.at, zone)" />
                  </ol>
                </template>
              </section>
              <div>
                <section aria-labelledby="awaited" data-test="awaited">
                  <h2 id="awaited" class="border-b border-rule pb-1 font-name text-[0.9375rem] font-bold">
                    Waiting for others <span class="font-sans font-normal text-ink-2">{{ day.awaited.length }}</span>
                  </h2>
                  <ol>
                    <li
                      v-for="a in day.awaited"
                      :key="`${a.what}${a.conversation_id}${a.since}`"
                      class="border-b border-rule-soft py-1.5">
                      <RouterLink :to="desk(a.conversation_id)" class="block hover:underline"
                        >For {{ AWAITED[a.what] }} <b>{{ a.from_name ?? 'whoever may' }}</b>, about {{ a.person_name }}
                        <span class="block truncate text-ink-2" dir="auto">{{ a.words }}</span></RouterLink
                      ><span class="text-xs text-ink-2">since {{ sayTime(a.since, zone) }}</span>
                    </li>
                    <li v-if="!day.awaited.length" class="py-2 text-ink-2">Nobody is waited for.</li>
                  </ol>
                </section>
                <section aria-labelledby="follow-ups" class="mt-5" data-test="follow-ups">
                  <h2 id="follow-ups" class="border-b border-rule pb-1 font-name text-[0.9375rem] font-bold">
                    Follow-ups of the next seven days
                    <span class="font-sans font-normal text-ink-2">{{ day.follow_ups.length }}</span>
                  </h2>
                  <ol>
                    <DayRow
                      v-for="f in day.follow_ups"
                      :key="f.id"
                      :to="person(f.person_id)"
                      :name="f.person_name"
                      :words="f.words"
                      :when="sayTime(f.at, zone)"
                      :is-late="Date.parse(f.at) < now" />
                    <li v-if="!day.follow_ups.length" class="py-2 text-ink-2">None.</li>
                  </ol>
                </section>
                <section aria-labelledby="done" class="mt-5" data-test="done">
                  <h2 id="done" class="border-b border-rule pb-1 font-name text-[0.9375rem] font-bold">
                    Done today <span class="font-sans font-normal text-ink-2">{{ day.done_total }} conversations</span>
                  </h2>
                  <p v-if="done" class="py-1.5 text-[0.8125rem]">{{ done }}</p>
                  <ol>
                    <DayRow
                      v-for="d in day.done"
                      :key="d.conversation_id"
                      :to="desk(d.conversation_id)"
                      :name="d.person_name"
                      :words="sayKinds(d.kinds)"
                      :when="`${MOVE_WORDS[d.move]?.toLowerCase()}, ${sayTime(d.at, zone)}`" />
                    <li v-if="!day.done.length" class="py-2 text-ink-2">Nothing yet.</li>
                  </ol>
                </section>
              </div>
            </div>
          </template>
        </LoadState>
      </div>
    </main>
  </AppFrame>
</template>
