<script setup lang="ts">
/** One member: load against capacity, what is late, and the pile that can be passed across. */
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { MemberLoad, WorkItem } from '@/api/types'
import Avatar from '@/components/ui/Avatar.vue'
import PriorityNotches from '@/components/ui/PriorityNotches.vue'
import { MOVE_WORDS, PRIORITIES, sayDue, sayTime } from '@/lib/words'

const props = defineProps<{
  workspaceId: number
  member: MemberLoad
  pile: WorkItem[]
  chosen: number[]
  zone: string
  now: number
  mayPass: boolean
  mayChange: boolean
  maySeeDay: boolean
}>()
const emit = defineEmits<{ toggle: [id: number]; drop: []; drag: [id: number]; change: [] }>()
const isOver = ref(false)
const share = computed(() =>
  Math.min(100, Math.round((props.member.in_hand / Math.max(1, props.member.capacity)) * 100)),
)
const state = computed(() => {
  const m = props.member
  if (m.is_away)
    return `away${m.away_until ? ` until ${sayTime(m.away_until, props.zone)}` : ''}${m.away_reason ? `, ${m.away_reason.toLowerCase()}` : ''}`
  if (m.is_off_shift) return 'off shift'
  if (m.away_from && Date.parse(m.away_from) > props.now) return `away from ${sayTime(m.away_from, props.zone)}`
  return m.in_hand >= m.capacity ? 'at capacity' : ''
})
const byMove = computed(() => {
  const sums = new Map<string, number>()
  for (const c of props.member.open) sums.set(c.move, (sums.get(c.move) ?? 0) + c.n)
  return [...sums].map(([move, n]) => `${n} ${MOVE_WORDS[move]?.toLowerCase()}`).join(', ')
})
const byPriority = computed(() =>
  [3, 2, 1, 0]
    .map((p) => ({
      p,
      n: props.member.open
        .filter((c) => c.priority === p && ['unsorted', 'our_move', 'in_review'].includes(c.move))
        .reduce((sum, c) => sum + c.n, 0),
    }))
    .filter((x) => x.n),
)
</script>

<template>
  <section
    class="flex min-h-0 min-w-48 flex-1 flex-col rounded-md border bg-sheet"
    :class="isOver && mayPass ? 'border-pine shadow-[0_0_0_2px_var(--pine)]' : 'border-rule'"
    :aria-label="member.name"
    :data-member="member.member_id"
    @dragover.prevent="isOver = true"
    @dragleave="isOver = false"
    @drop.prevent="((isOver = false), emit('drop'))">
    <header class="border-b border-rule-soft px-3 py-2">
      <h2 class="flex items-center gap-2 font-bold">
        <Avatar :initials="member.initials" /><RouterLink
          v-if="maySeeDay"
          class="truncate hover:underline"
          :to="{ name: 'day', params: { workspace: String(workspaceId), member: String(member.member_id) } }"
          >{{ member.name }}</RouterLink
        ><span v-else class="truncate">{{ member.name }}</span
        ><button
          v-if="mayChange"
          type="button"
          class="ml-auto text-xs font-semibold text-pine underline"
          @click="emit('change')">
          Change
        </button>
      </h2>
      <p class="text-xs text-ink-2">
        {{ member.role }}<template v-if="member.languages.length">, {{ member.languages.join(' ') }}</template>
      </p>
      <p class="mt-1 flex items-baseline gap-1.5">
        <b class="font-name text-xl leading-none">{{ member.in_hand }}</b><span class="text-xs text-ink-2"
          >of {{ member.capacity }} in hand</span
        ><b v-if="member.late" class="ml-auto text-[0.8125rem] text-brick">{{ member.late }} late</b>
      </p>
      <div class="my-1 h-1.5 rounded bg-fold" role="img" :aria-label="`${share} percent of capacity`">
        <i class="block h-1.5 rounded" :class="share >= 100 ? 'bg-honey' : 'bg-pine'" :style="{ width: `${share}%` }" />
      </div>
      <p class="text-xs text-ink-2">
        <template v-for="x in byPriority" :key="x.p"
          ><span :class="x.p === 3 ? 'font-semibold text-brick' : ''">{{ x.n }} {{ PRIORITIES[x.p] }}</span
          >&ensp;</template
        >
      </p>
      <p class="text-xs text-ink-2">{{ byMove || 'nothing open' }}</p>
      <p v-if="state" class="mt-0.5 text-xs font-semibold text-honey" data-test="member-state">{{ state }}</p>
    </header>
    <ol class="min-h-0 flex-1 scroll-quiet overflow-y-auto">
      <li
        v-for="w in pile"
        :key="w.id"
        class="flex gap-2 border-b border-rule-soft px-2 py-1.5 text-[0.8125rem]"
        :class="chosen.includes(w.id) ? 'bg-pine-wash' : ''"
        :draggable="mayPass"
        :data-work="w.id"
        @dragstart="emit('drag', w.id)">
        <input
          v-if="mayPass"
          type="checkbox"
          class="mt-1 accent-pine"
          :checked="chosen.includes(w.id)"
          :aria-label="`Choose ${w.person_name}`"
          @change="emit('toggle', w.id)" />
        <PriorityNotches :priority="w.priority" :word="PRIORITIES[w.priority] ?? ''" />
        <RouterLink
          :to="{ name: 'desk', params: { workspace: String(workspaceId), conversation: String(w.id) } }"
          class="min-w-0 flex-1 hover:underline">
          <span class="flex gap-1"
            ><b class="truncate">{{ w.person_name }}</b
            ><span
              class="ml-auto text-xs whitespace-nowrap"
              :class="sayDue(w.due, now).late ? 'font-semibold text-brick' : 'text-ink-2'"
              >{{ sayDue(w.due, now).words }}</span
            ></span
          >
          <span class="line-clamp-1 text-ink-2" dir="auto">{{ w.preview }}</span>
          <span v-if="w.move === 'in_review' || w.is_drafted" class="text-xs text-plum">{{
            w.move === 'in_review' ? 'in review' : 'being written'
          }}</span>
        </RouterLink>
      </li>
      <li v-if="!pile.length" class="px-3 py-4 text-center text-[0.8125rem] text-ink-2">Nothing in hand</li>
    </ol>
  </section>
</template>
