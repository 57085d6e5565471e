<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Act, Desk, ParkFor, Present, SettledAs, Sheet } from '@/api/types'
import Avatar from '@/components/ui/Avatar.vue'
import KeyCap from '@/components/ui/KeyCap.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import { useClock } from '@/composables/useClock'
import { useDirectory } from '@/composables/useDirectory'
import { DOING, KINDS, MOVE_WORDS, PARKING, PRIORITIES, SETTLED, sayDue, sayTime } from '@/lib/words'
import HandOverDialog from '@/features/cases/HandOverDialog.vue'
import GiveDialog from './GiveDialog.vue'
import TagDialog from '@/components/ui/TagDialog.vue'
import WhenDialog from '@/components/ui/WhenDialog.vue'

const props = defineProps<{
  /** With what acts on their way make of it. */
  sheet: Sheet
  /** An act is on its way: what is shown is not yet so, and where that takes long one sees it. */
  isComing: boolean
  zone: string
  me: number
  maySort: boolean
  present: Present[]
}>()
const emit = defineEmits<{ act: [body: Act, words: string]; acts: [each: [body: Act, words: string][]] }>()
const { members, directory, offeredTags, byMember, byNetwork, byTag, byTeam, sayMember } = useDirectory()

const c = computed(() => props.sheet.conversation)
const network = computed(() => byNetwork.value.get(c.value.network)?.name ?? c.value.network)
const where = computed(() => {
  const kind =
    c.value.kind === 'found'
      ? 'Found by listening'
      : `${c.value.public ? 'Public' : 'Private'} ${KINDS[c.value.kind]?.replace('private ', '')}`
  const on = props.sheet.post?.title ? ` on “${props.sheet.post.title}”` : ''
  return `${kind}${on}, ${props.sheet.account.name} on ${network.value}`
})
const { now } = useClock()
const isLate = computed(() => sayDue(c.value.due, now.value).late)
const owner = computed(() => byMember.value.get(c.value.owner_id ?? 0))

// What stands in the menus is the same for every conversation: none of it is made anew with each that opens.
const priorities = PRIORITIES.map((text, value) => ({ value, text })).reverse()
const parkings = [
  ...PARKING.map(([value, text]) => ({ value, text })),
  { value: 'exact' as const, text: 'Until an exact time …' },
]
const endings = computed(() => [
  ...(['answered', 'no_reply_needed', 'handed_over', 'junk', 'removed'] as const).map((value) => ({
    value,
    text: `As ${SETTLED[value]}`,
  })),
  ...(directory.value?.desks ?? []).map((d) => ({ value: `desk ${d.id}` as const, text: `Hand over to ${d.name} …` })),
])

const giving = ref(false)
const handing = ref<Desk | null>(null)
const parking = ref(false)
const priorityMenu = ref<{ open: () => void } | null>(null)
const parkMenu = ref<{ open: () => void } | null>(null)
const settleMenu = ref<{ open: () => void } | null>(null)

function take(): void {
  emit('act', { act: 'assign', owner_id: props.me, note: null }, 'You took it')
}
function give(to: number | null, team: number | null, note: string): void {
  giving.value = false
  const words = to ? `Given to ${sayMember(to)}` : team ? `Given to ${byTeam.value.get(team)}` : 'Left to nobody'
  emit('act', { act: 'assign', owner_id: to, team_id: team, note: note || null }, words)
}
const tagging = ref<'conversation' | 'person' | null>(null)
const namesOf = (ids: number[]): string[] => ids.map((id) => byTag.value.get(id) ?? '').filter(Boolean)
function tag(changes: { name: string; on: boolean }[]): void {
  const person = tagging.value === 'person'
  tagging.value = null
  emit(
    'acts',
    changes.map(({ name, on }) => [{ act: 'tag', name, on, person }, `${on ? 'Tagged' : 'Tag taken off'}: ${name}`]),
  )
}
const isWatched = computed(() => c.value.watchers.includes(props.me))
function watchIt(): void {
  emit('act', { act: 'watch', on: !isWatched.value }, isWatched.value ? 'No longer watched' : 'Watched')
}
function prioritise(priority: number): void {
  emit('act', { act: 'prioritise', priority }, `Priority ${PRIORITIES[priority]}`)
}
function keep(): void {
  if (c.value.move === 'settled') emit('act', { act: 'reopen' }, 'Brought back as our move')
  else emit('act', { act: 'keep' }, 'Kept as our move')
}
function park(choice: ParkFor | 'exact'): void {
  if (choice === 'exact') parking.value = true
  else
    emit(
      'act',
      { act: 'park', choice, until: null },
      `Parked: ${PARKING.find(([k]) => k === choice)?.[1].toLowerCase()}`,
    )
}
function parkUntil(until: string): void {
  parking.value = false
  emit('act', { act: 'park', choice: null, until }, 'Parked')
}
/** Settle's menu leads to the desks too: handing over settles. */
function finish(choice: SettledAs | `desk ${number}`): void {
  const desk = directory.value?.desks.find((d) => choice === `desk ${d.id}`)
  if (desk) handing.value = desk
  else settle(choice as SettledAs)
}
function handOver(note: string): void {
  const desk = handing.value
  handing.value = null
  if (desk) emit('act', { act: 'hand_over', desk_id: desk.id, note: note || null }, `Handed over to ${desk.name}`)
}
function settle(how: SettledAs): void {
  emit('act', { act: 'settle', how }, `Settled: ${SETTLED[how]}`)
}
defineExpose({
  take,
  keep,
  give: () => (giving.value = true),
  prioritise: () => priorityMenu.value?.open(),
  park: () => parkMenu.value?.open(),
  settle: () => settleMenu.value?.open(),
  settleAs: settle,
  tag: () => (tagging.value = 'conversation'),
  tagPerson: () => (tagging.value = 'person'),
  watch: watchIt,
})
</script>

<template>
  <header class="shrink-0 border-b border-rule-soft px-3 pt-3 pb-2.5 md:px-5">
    <div class="flex flex-wrap items-center gap-x-2 md:flex-nowrap">
      <h1 class="min-w-0 truncate font-name text-[1.1875rem] leading-tight font-bold">{{ c.person_name }}</h1>
      <span class="hidden truncate text-[0.8125rem] text-ink-2 2xl:inline">@{{ c.handle.replace(/^@/, '') }}</span>
      <div v-if="maySort" class="-mr-2 ml-auto flex shrink-0 items-center text-[0.8125rem]">
        <button
          v-if="c.owner_id !== me"
          type="button"
          class="inline-flex items-center gap-1.5 rounded px-2 py-[3px] font-semibold hover:bg-fold"
          @click="take">
          Take it <KeyCap keys="T" />
        </button>
        <button
          v-if="c.move === 'settled'"
          type="button"
          class="inline-flex items-center gap-1.5 rounded px-2 py-[3px] font-semibold hover:bg-fold"
          title="It is our move again"
          data-test="reopen"
          @click="keep">
          Bring back <KeyCap keys="K" />
        </button>
        <button
          v-else
          type="button"
          class="inline-flex items-center gap-1.5 rounded px-2 py-[3px] font-semibold hover:bg-fold"
          title="Sorted: it stays our move"
          @click="keep">
          Keep <KeyCap keys="K" />
        </button>
        <PickMenu ref="parkMenu" label="Park" plain align="right" :choices="parkings" @pick="park"
          >Park <KeyCap keys="P"
        /></PickMenu>
        <PickMenu ref="settleMenu" label="Settle" plain align="right" :choices="endings" @pick="finish"
          >Settle <KeyCap keys="S"
        /></PickMenu>
      </div>
    </div>
    <p class="truncate text-[0.8125rem] text-ink-2">{{ where }}</p>
    <div
      class="mt-2 flex flex-wrap items-center gap-x-2 gap-y-1 text-[0.8125rem]"
      :class="isComing ? 'opacity-70 transition-opacity delay-300 duration-150' : ''"
      :aria-busy="isComing">
      <span class="rounded border-[1.5px] border-pine px-2 py-0.5 font-bold text-pine" data-test="move">
        {{ MOVE_WORDS[c.move] }}<template v-if="c.settled_as">: {{ SETTLED[c.settled_as] }}</template>
        <template v-if="c.move === 'parked' && c.parked_until"> until {{ sayTime(c.parked_until, zone) }}</template>
      </span>
      <PickMenu ref="priorityMenu" label="Priority" :disabled="!maySort" :choices="priorities" @pick="prioritise">
        <span :class="c.priority === 3 || isLate ? 'text-brick' : ''">
          <b>{{ PRIORITIES[c.priority] }}</b>{{ c.due ? ` ${isLate ? 'was due' : 'due'} ${sayTime(c.due, zone)}` : '' }}
        </span>
        <KeyCap keys="U" />
      </PickMenu>
      <button
        type="button"
        class="inline-flex items-center gap-1.5 rounded border border-rule bg-raised px-2 py-[3px] hover:bg-fold disabled:opacity-50"
        :disabled="!maySort"
        title="Give it to a colleague"
        @click="giving = true">
        <template v-if="owner"><Avatar :initials="owner.initials" />{{ sayMember(owner.id) }}</template>
        <template v-else-if="c.team_id">{{ byTeam.get(c.team_id) }}, team</template>
        <template v-else>Nobody yet</template>
        <KeyCap keys="G" />
      </button>
      <button
        type="button"
        class="inline-flex min-w-0 items-center gap-1.5 rounded border border-rule bg-raised px-2 py-[3px] hover:bg-fold disabled:opacity-50"
        :disabled="!maySort"
        title="Tag the conversation"
        data-test="tags"
        @click="tagging = 'conversation'">
        <span class="max-w-40 truncate">{{ namesOf(c.tags).join(', ') || 'Tag' }}</span> <KeyCap keys="M" />
      </button>
      <button
        type="button"
        class="inline-flex items-center gap-1.5 rounded px-1.5 py-[3px] hover:bg-fold disabled:opacity-50"
        :class="isWatched ? 'font-semibold text-sky' : ''"
        :disabled="!maySort"
        :aria-pressed="isWatched"
        @click="watchIt">
        {{ isWatched ? 'Watched' : 'Watch' }} <KeyCap keys="W" />
      </button>
      <span
        v-for="p in present"
        :key="p.member_id"
        class="ml-auto flex items-center gap-1 text-[0.78125rem] font-semibold whitespace-nowrap text-plum"
        data-test="present">
        <Avatar :initials="byMember.get(p.member_id)?.initials ?? ''" live />{{ sayMember(p.member_id) }}
        {{ DOING[p.doing] }}
      </span>
      <span v-if="!maySort && !c.erased_at" class="text-xs text-ink-2"
        >Your role here sees everything and changes nothing</span
      >
    </div>
    <TagDialog
      v-if="tagging"
      :title="tagging === 'person' ? `Tag ${c.person_name}` : 'Tag the conversation'"
      :known="offeredTags.map((t) => t.name)"
      :on="namesOf(tagging === 'person' ? sheet.person.tags : c.tags)"
      @close="tagging = null"
      @tag="tag" />
    <HandOverDialog v-if="handing" :desk="handing" :count="1" @close="handing = null" @hand="handOver" />
    <GiveDialog
      v-if="giving"
      :members="(members ?? []).filter((m) => !sheet.blind.includes(m.id))"
      :teams="directory?.teams ?? []"
      :owner="c.owner_id"
      :team="c.team_id"
      @close="giving = false"
      @give="give" />
    <WhenDialog
      :zone="zone"
      v-if="parking"
      title="Park until"
      about="It comes back by itself then, or at once when they write again. The due keeps running."
      button="Park"
      @close="parking = false"
      @pick="parkUntil" />
  </header>
</template>
