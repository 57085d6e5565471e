<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Availability, MemberLoad, ProposedPass, TeamOne, WorkItem } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useClock } from '@/composables/useClock'
import type { Notice } from '@/composables/useLive'
import AppFrame from '@/features/frame/AppFrame.vue'
import AvailabilityDialog from '@/features/team/AvailabilityDialog.vue'
import MemberColumn from '@/features/team/MemberColumn.vue'
import { useTeam } from '@/features/team/useTeam'
import { WAYS } from '@/lib/team'
import { PRIORITIES } from '@/lib/words'
import { useSession } from '@/stores/session'

const session = useSession()
const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const { now } = useClock(30_000)
const { team, work, problem, refetch, pass, undo, propose, setAvailability, setWay } = useTeam(workspaceId)
const mayPass = computed(() => session.may('sort'))
const chosen = ref<number[]>([])
const dragged = ref<number | null>(null)
const changing = ref<MemberLoad | null>(null)
const proposals = ref<ProposedPass[] | null>(null)
const left = ref<Set<number>>(new Set())
const done = ref<{ words: string; acts: { id: number; seq: number }[] } | null>(null)
let timer: ReturnType<typeof setTimeout> | undefined

const members = computed(() => (team.value?.members ?? []).filter((m) => m.may_answer))
const pileOf = (id: number): WorkItem[] => (work.value ?? []).filter((w) => w.owner_id === id)
const nameOf = (id: number): string => members.value.find((m) => m.member_id === id)?.name.split(' ')[0] ?? 'somebody'
const toggle = (id: number): void => {
  chosen.value = chosen.value.includes(id) ? chosen.value.filter((c) => c !== id) : [...chosen.value, id]
}
function remember(words: string, acts: { id: number; seq: number }[]): void {
  clearTimeout(timer)
  done.value = acts.length ? { words, acts } : null
  timer = setTimeout(() => (done.value = null), session.undoLineFor)
}
async function passTo(memberId: number, ids: number[]): Promise<void> {
  const going = ids.filter((id) => work.value?.find((w) => w.id === id)?.owner_id !== memberId)
  if (!going.length) return
  remember(`${going.length} passed to ${nameOf(memberId)}`, await pass(going, memberId))
  chosen.value = []
}
function drop(memberId: number): void {
  const id = dragged.value
  dragged.value = null
  if (id !== null) void passTo(memberId, chosen.value.includes(id) ? chosen.value : [id])
}
async function even(): Promise<void> {
  left.value = new Set()
  proposals.value = await propose()
}
const wanted = computed(() => (proposals.value ?? []).filter((p) => !left.value.has(p.id)))
async function doEven(): Promise<void> {
  const all = wanted.value
  proposals.value = null
  const acts: { id: number; seq: number }[] = []
  for (const taker of new Set(all.map((p) => p.taker)))
    acts.push(
      ...(await pass(
        all.filter((p) => p.taker === taker).map((p) => p.id),
        taker,
      )),
    )
  remember(`${acts.length} passed across`, acts)
}
async function takeBack(): Promise<void> {
  const last = done.value
  done.value = null
  if (last) await undo(last.acts)
}
async function save(given: Availability): Promise<void> {
  if (changing.value && (await setAvailability(changing.value.member_id, given))) changing.value = null
}
const membersOf = (t: TeamOne): string => t.members.map(nameOf).join(', ')
function onNotice(notice: Notice): void {
  if (['team', 'everything', 'conversations', 'hours'].includes(notice.kind)) void refetch()
}
</script>

<template>
  <AppFrame :doables="mayPass ? [{ words: 'Even out the load', run: () => void even() }] : []" @notice="onNotice">
    <main class="flex min-h-0 flex-1 flex-col gap-3 px-6 py-4">
      <header class="flex flex-wrap items-end gap-x-6 gap-y-2">
        <div>
          <h1 class="font-name text-xl font-bold">Team</h1>
          <p class="text-[0.84375rem] text-ink-2">
            What everybody has in hand. Drag a conversation to somebody else, or choose some and pass them.
          </p>
        </div>
        <dl v-if="team" class="flex flex-wrap gap-x-5 gap-y-1 text-[0.8125rem]" data-test="teams">
          <div v-for="t in team.teams" :key="t.id">
            <dt class="font-semibold">
              {{ t.name }} <span class="font-normal text-ink-2">{{ membersOf(t) }}</span>
            </dt>
            <dd>
              <PickMenu
                :label="`How ${t.name} gives work`"
                :disabled="!session.may('manage_rules')"
                :choices="WAYS.map(([value, text]) => ({ value, text }))"
                @pick="(way) => setWay(t.id, way)"
                >gives {{ WAYS.find(([w]) => w === t.way)?.[1] }} ▾</PickMenu
              >
            </dd>
          </div>
        </dl>
        <div v-if="mayPass" class="ml-auto flex items-center gap-2">
          <template v-if="chosen.length"
            ><span class="text-[0.8125rem] font-semibold">{{ chosen.length }} chosen</span
            ><PickMenu
              label="Pass to"
              align="right"
              :choices="members.map((m) => ({ value: m.member_id, text: m.name, hint: `${m.in_hand} in hand` }))"
              data-test="pass-to"
              @pick="(id) => passTo(id, chosen)"
              >Pass to ▾</PickMenu
            ></template
          >
          <UiButton kind="main" data-test="even-out" @click="even">Even out</UiButton>
        </div>
      </header>
      <p v-if="problem" role="alert" class="text-[0.8125rem] text-brick">{{ problem }}</p>
      <div
        class="flex min-h-0 flex-1 scroll-quiet gap-3 overflow-x-auto pb-2"
        tabindex="0"
        role="region"
        aria-label="Members">
        <MemberColumn
          v-for="m in members"
          :key="m.member_id"
          :workspace-id="workspaceId"
          :member="m"
          :pile="pileOf(m.member_id)"
          :chosen="chosen"
          :zone="zone"
          :now="now"
          :may-pass="mayPass"
          :may-change="m.member_id === session.session?.member_id || session.may('manage_members')"
          :may-see-day="m.member_id === session.session?.member_id || session.may('see_reports')"
          @toggle="toggle"
          @drag="(id) => (dragged = id)"
          @drop="drop(m.member_id)"
          @change="changing = m" />
      </div>
      <div
        v-if="done"
        role="status"
        class="fixed bottom-4 left-4 z-20 flex items-center gap-4 rounded-md bg-band px-4 py-2 text-band-ink shadow-lg"
        data-test="undo-line">
        <span>{{ done.words }}</span><button type="button" class="font-semibold underline" @click="takeBack">
          Undo
        </button>
      </div>
    </main>
    <AvailabilityDialog
      v-if="changing"
      :zone="zone"
      :member="changing"
      :problem="problem"
      @close="changing = null"
      @save="save" />
    <AppDialog :open="proposals !== null" title="Even out the load" wide @close="proposals = null">
      <p v-if="!proposals?.length" class="text-ink-2">
        Nobody would be better off: the load is even, or nobody else is there to take it.
      </p>
      <template v-else>
        <p class="mb-2 text-[0.8125rem] text-ink-2">
          Weighed by priority against what each takes; what somebody is writing on stays. Take out what should stay.
        </p>
        <ul class="max-h-[50vh] scroll-quiet overflow-y-auto" data-test="proposals">
          <li
            v-for="p in proposals"
            :key="p.id"
            class="flex items-baseline gap-3 border-b border-rule-soft py-1 text-[0.8125rem]">
            <label class="flex min-w-0 flex-1 items-baseline gap-2"
              ><input
                type="checkbox"
                class="accent-pine"
                :checked="!left.has(p.id)"
                @change="left.has(p.id) ? left.delete(p.id) : left.add(p.id)" /><b class="whitespace-nowrap"
                >{{ nameOf(p.giver) }} to {{ nameOf(p.taker) }}</b
              ><span class="truncate">{{ p.person_name }}: {{ p.preview }}</span></label
            ><span class="whitespace-nowrap text-ink-2">{{ PRIORITIES[p.priority] }}</span>
          </li>
        </ul>
      </template>
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="proposals = null"> {{ proposals?.length ? 'Leave it' : 'Close' }}</UiButton><UiButton
          kind="main"
          v-if="wanted.length"
          data-test="do-even"
          @click="doEven">
          Pass {{ wanted.length }} across
        </UiButton>
      </div>
    </AppDialog>
  </AppFrame>
</template>
