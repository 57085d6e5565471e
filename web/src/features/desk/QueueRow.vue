<script setup lang="ts">
import { computed } from 'vue'
import type { Standing, Present, Row } from '@/api/types'
import Avatar from '@/components/ui/Avatar.vue'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import PriorityNotches from '@/components/ui/PriorityNotches.vue'
import { useDirectory } from '@/composables/useDirectory'
import { sayLanguage } from '@/lib/filters'
import { DOING, KINDS, MOVE_WORDS, PRIORITIES, SETTLED, sayDue, sayLength, sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{
  row: Row
  /** Where it leads, in another tab too. */
  address: string
  move: Standing
  isOpen: boolean
  isSelected: boolean
  now: number
  present: Present[]
}>()
defineEmits<{ open: [event: MouseEvent] }>()
const session = useSession()
const { byMember, byNetwork, byTag, byTeam, sayMember } = useDirectory()

const due = computed(() => sayDue(props.row.due, props.now))
const hasLeft = computed(() => props.move !== 'any' && props.row.move !== props.move)
const time = computed(() => {
  if (hasLeft.value) return `now ${MOVE_WORDS[props.row.move]}`
  if (props.move === 'any' && !['parked', 'unsorted', 'our_move'].includes(props.row.move))
    return MOVE_WORDS[props.row.move]
  if (props.row.move === 'parked' && props.row.parked_until)
    return `back in ${sayLength(Date.parse(props.row.parked_until) - props.now)}`
  return due.value.words || `${sayLength(props.now - Date.parse(props.row.last_at))} ago`
})
/** What is not outside yet is no answer: said on the row, with why. */
const way = computed(() =>
  props.row.stuck ? 'not out yet' : props.row.on_its_way && props.row.move !== 'unsorted' ? 'on its way' : '',
)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const network = computed(() => byNetwork.value.get(props.row.network))
const owner = computed(() => byMember.value.get(props.row.owner_id ?? 0))
const writer = computed(() => props.present[0])
</script>

<template>
  <a
    :href="address"
    class="relative grid h-full grid-cols-[14px_30px_1fr] gap-2 border-b border-rule-soft bg-sheet py-2 pr-3.5 pl-2.5"
    :class="[
      isOpen ? 'z-10 bg-raised shadow-[inset_0_0_0_2px_var(--pine)]' : 'hover:bg-raised',
      hasLeft ? 'bg-paper text-ink-2' : '',
      isSelected ? '!bg-pine-wash' : '',
    ]"
    :aria-current="isOpen ? 'true' : undefined"
    :data-conversation="row.id"
    @click="$emit('open', $event)">
    <PriorityNotches :priority="row.priority" :word="PRIORITIES[row.priority] ?? ''" />
    <NetworkMark :letters="network?.letters ?? ''" :name="network?.name ?? row.network" :is-private="!row.public" />
    <span class="flex min-w-0 flex-col">
      <span class="flex items-baseline gap-1.5">
        <span class="truncate" :class="row.unread ? 'font-bold' : 'font-medium'">{{ row.person_name }}</span>
        <span class="text-xs whitespace-nowrap text-ink-2"
          >{{ KINDS[row.kind]
          }}<span v-if="row.rating" class="ml-1" role="img" :aria-label="`${row.rating} of 5 stars`"
            >{{ '★'.repeat(row.rating) }}{{ '☆'.repeat(5 - row.rating) }}</span
          ></span
        >
        <span v-if="isSelected" class="text-xs font-semibold text-pine">selected</span>
        <span v-if="row.unread" class="sr-only">unread</span>
        <span
          class="ml-auto text-[12.5px] font-semibold whitespace-nowrap"
          :class="due.late && !hasLeft ? 'text-brick' : ''"
          :title="`Came ${sayTime(row.last_inbound_at, zone)}${row.due ? `, ${due.late ? 'was due' : 'due'} ${sayTime(row.due, zone)}` : ''}`"
          data-test="row-time"
          >{{ time }}</span
        >
      </span>
      <span class="mt-px line-clamp-2 text-[13.5px] leading-[1.38]" dir="auto">{{
        row.preview || 'No words, only an attachment'
      }}</span>
      <span class="mt-auto flex items-center gap-1.5 text-xs text-ink-2">
        <span v-for="t in row.tags.slice(0, 3)" :key="t" class="max-w-24 truncate rounded-sm bg-fold px-1.5">{{
          byTag.get(t)
        }}</span>
        <span v-if="row.language && !session.readsLanguage(row.language)" class="whitespace-nowrap">{{
          sayLanguage(row.language)
        }}</span>
        <b v-if="way" class="whitespace-nowrap text-honey" :title="row.stuck ?? undefined" data-test="row-way">{{
          way
        }}</b>
        <span v-if="row.watched" class="text-sky">watched</span>
        <span v-if="row.messages > 1 && !row.tags.length && !row.thanked" class="whitespace-nowrap"
          >{{ row.messages }} messages</span
        >
        <span v-if="row.linked && !row.settled_as" class="whitespace-nowrap" data-test="row-linked">{{
          row.public ? 'goes on in private' : 'began in public'
        }}</span>
        <span v-if="row.settled_as" class="whitespace-nowrap"
          >{{ SETTLED[row.settled_as] }}<span v-if="row.thanked" data-test="row-thanked">, they thanked you</span></span
        >
        <span v-if="writer" class="ml-auto flex items-center gap-1 font-semibold text-plum">
          {{ sayMember(writer.member_id) }} {{ DOING[writer.doing] }}
          <Avatar :initials="byMember.get(writer.member_id)?.initials ?? ''" live />
        </span>
        <span v-else class="ml-auto flex items-center gap-1">
          <template v-if="owner"><Avatar :initials="owner.initials" />{{ sayMember(owner.id) }}</template>
          <template v-else-if="row.team_id">{{ byTeam.get(row.team_id) }}</template>
          <template v-else>Nobody yet</template>
        </span>
      </span>
    </span>
  </a>
</template>
