<script setup lang="ts">
/** As high as what it says: who and when, what was said, and what else is known of it only where there is something. */
import { computed } from 'vue'
import type { Standing, Present, Row } from '@/api/types'
import Avatar from '@/components/ui/Avatar.vue'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import PriorityNotches from '@/components/ui/PriorityNotches.vue'
import { useClock } from '@/composables/useClock'
import { useDirectory } from '@/composables/useDirectory'
import { sayLanguage } from '@/lib/filters'
import { DOING, KINDS, PRIORITIES, SETTLED, sayDue, sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'
import { hasLeft, nameRow, sayWhen } from './rowWords'

const props = defineProps<{
  row: Row
  /** Where it leads, in another tab too. */
  address: string
  move: Standing
  isOpen: boolean
  isSelected: boolean
  /** Tab comes to one row of the list; the arrows go on from there. */
  isStop: boolean
  isCompact: boolean
  present: Present[]
}>()
defineEmits<{ open: [event: MouseEvent] }>()
const session = useSession()
const { byMember, byNetwork, byTag, byTeam, sayMember } = useDirectory()

const { now } = useClock()
/** What moves with the clock moves when it says something else, not with each of its ticks. */
const isLate = computed(() => sayDue(props.row.due, now.value).late)
const left = computed(() => hasLeft(props.row, props.move))
const time = computed(() => sayWhen(props.row, props.move, now.value))
/** Characters for which a line has room, roughly. */
const LINE = 42
/** What is not outside yet is no answer: said on the row, with why. */
const way = computed(() =>
  props.row.stuck ? 'not out yet' : props.row.on_its_way && props.row.move !== 'unsorted' ? 'on its way' : '',
)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const network = computed(() => byNetwork.value.get(props.row.network))
const owner = computed(() => byMember.value.get(props.row.owner_id ?? 0))
const team = computed(() => (props.row.owner_id === null ? byTeam.value.get(props.row.team_id ?? 0) : undefined))
const whose = computed(() => (owner.value ? sayMember(owner.value.id) : (team.value ?? 'nobody yet')))
const writer = computed(() => props.present[0])
const foreign = computed(() =>
  props.row.language && !session.readsLanguage(props.row.language) ? props.row.language : null,
)
const linked = computed(() =>
  props.row.linked && !props.row.settled_as ? (props.row.public ? 'goes on in private' : 'began in public') : '',
)
const settled = computed(() => (props.row.settled_as ? (SETTLED[props.row.settled_as] ?? '') : ''))
const tags = computed(() => props.row.tags.slice(0, 3).map((t) => byTag.value.get(t) ?? ''))
/** What stands at the end of the second line. */
const more = computed(() =>
  [
    foreign.value && sayLanguage(foreign.value),
    props.row.watched && 'watched',
    linked.value,
    settled.value + (props.row.thanked ? ', they thanked you' : ''),
    ...tags.value,
    team.value,
    way.value,
    writer.value && `${sayMember(writer.value.member_id)} ${DOING[writer.value.doing]}`,
  ].filter(Boolean),
)
/** Whether it all stands on one line. */
const isOneLine = computed(() => words.value.length + more.value.join('   ').length < LINE)
const name = computed(
  () =>
    `${nameRow(props.row, props.move, now.value)}, ${whose.value}${way.value ? `, ${way.value}` : ''}${props.isSelected ? ', selected' : ''}`,
)
const words = computed(() => props.row.preview || 'No words, only an attachment')
</script>

<template>
  <a
    :href="address"
    :tabindex="isStop ? 0 : -1"
    class="relative grid grid-cols-[14px_30px_1fr] gap-x-2 border-b border-rule-soft pr-3.5 pl-2.5 focus-visible:-outline-offset-2"
    :class="[
      isCompact ? 'py-0.5' : 'py-[3px]',
      isSelected ? 'bg-pine-wash' : left ? 'bg-paper text-ink-2' : isOpen ? 'bg-raised' : 'bg-sheet hover:bg-raised',
      isOpen ? 'z-10 shadow-[inset_0_0_0_2px_var(--pine)]' : '',
    ]"
    :aria-current="isOpen ? 'true' : undefined"
    :data-conversation="row.id"
    @click="$emit('open', $event)">
    <span class="sr-only"
      >{{ name }}. <span :lang="row.language ?? undefined">{{ words }}</span></span
    >
    <PriorityNotches aria-hidden="true" :priority="row.priority" :word="PRIORITIES[row.priority] ?? ''" />
    <NetworkMark
      aria-hidden="true"
      :letters="network?.letters ?? ''"
      :name="network?.name ?? row.network"
      :is-private="!row.public"
      :class="isCompact ? 'mt-[3px]' : 'mt-0.5'" />
    <span class="flex min-w-0 flex-col" aria-hidden="true">
      <span class="flex items-baseline gap-1.5" :class="isCompact ? 'h-[1.0625rem]' : 'h-[1.125rem]'">
        <span class="truncate" :class="row.unread ? 'font-bold' : 'font-medium'">{{ row.person_name }}</span>
        <span class="text-xs whitespace-nowrap text-ink-2"
          >{{ KINDS[row.kind]
          }}<span v-if="row.messages > 1" :title="`${row.messages} messages`">, {{ row.messages }}</span
          ><span v-if="row.rating" class="ml-1"
            >{{ '★'.repeat(row.rating) }}{{ '☆'.repeat(5 - row.rating) }}</span
          ></span
        >
        <span v-if="isSelected" class="text-xs font-semibold text-pine">selected</span>
        <span class="ml-auto self-center" :title="whose">
          <Avatar v-if="owner" :initials="owner.initials" />
          <i v-else-if="!team" class="block size-4 rounded-full border border-dashed border-ink-3" data-test="nobody" />
        </span>
        <span
          class="text-[0.78125rem] font-semibold whitespace-nowrap"
          :class="isLate && !left ? 'text-brick' : ''"
          :title="`Came ${sayTime(row.last_inbound_at, zone)}${row.due ? `, ${isLate ? 'was due' : 'due'} ${sayTime(row.due, zone)}` : ''}`"
          data-test="row-time"
          >{{ time }}</span
        >
      </span>
      <span v-if="isCompact" class="flex items-baseline gap-2 text-[0.8125rem] leading-tight">
        <span class="min-w-0 flex-1 truncate" :lang="row.language ?? undefined" dir="auto">{{ words }}</span>
        <span v-if="writer" class="shrink-0 text-xs font-semibold text-plum"
          >{{ sayMember(writer.member_id) }} {{ DOING[writer.doing] }}</span
        >
        <b v-else-if="way" class="shrink-0 text-xs text-honey" :title="row.stuck ?? undefined">{{ way }}</b>
      </span>
      <!-- What else is known stands at the end of the second line, and the words run around it. -->
      <span
        v-else
        class="block max-h-[2lh] overflow-hidden text-[0.84375rem] leading-tight"
        :class="more.length ? '' : 'line-clamp-2'"
        :lang="row.language ?? undefined"
        dir="auto">
        <template v-if="more.length">
          <span v-if="!isOneLine" class="float-right h-[1lh] w-0" />
          <span
            class="float-right clear-right ml-2 flex h-[1lh] max-w-[75%] items-center gap-1.5 text-xs text-ink-2"
            dir="ltr"
            lang="en">
            <span v-if="foreign" class="whitespace-nowrap">{{ sayLanguage(foreign) }}</span>
            <span v-if="row.watched" class="text-sky">watched</span>
            <span v-if="linked" class="truncate" data-test="row-linked">{{ linked }}</span>
            <span v-if="settled" class="truncate"
              >{{ settled }}<span v-if="row.thanked" data-test="row-thanked">, they thanked you</span></span
            >
            <span v-for="t in tags" :key="t" class="max-w-24 truncate rounded-sm bg-fold px-1.5">{{ t }}</span>
            <span v-if="team" class="truncate">{{ team }}</span>
            <b v-if="way" class="whitespace-nowrap text-honey" :title="row.stuck ?? undefined" data-test="row-way">{{
              way
            }}</b>
            <span v-if="writer" class="flex items-center gap-1 truncate font-semibold text-plum">
              {{ sayMember(writer.member_id) }} {{ DOING[writer.doing] }}
              <Avatar :initials="byMember.get(writer.member_id)?.initials ?? ''" live />
            </span>
          </span> </template
        >{{ words }}
      </span>
    </span>
  </a>
</template>
