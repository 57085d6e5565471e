<script setup lang="ts">
/** What only we see: why it is due when it is, notes, the person, the trail. */
import { computed } from 'vue'
import type { Sheet, TrailEvent } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { KINDS, MOVE_WORDS, PRIORITIES, sayLength, sayTime, SETTLED } from '@/lib/words'

const props = defineProps<{ sheet: Sheet; zone: string; now: number }>()
defineEmits<{ open: [id: number] }>()
const { sayMember, byNetwork } = useDirectory()

const c = computed(() => props.sheet.conversation)
const undone = computed(() => new Set(props.sheet.trail.filter((e) => e.kind === 'undone').map((e) => Number(e.data.of))))
const notes = computed(() =>
  props.sheet.trail.filter((e) => !undone.value.has(e.seq) && (e.kind === 'noted' || (e.kind === 'assigned' && e.data.note))),
)
const noteOf = (e: TrailEvent): string => String(e.kind === 'noted' ? e.data.text : e.data.note)
const titleOf = (e: TrailEvent): string =>
  e.kind === 'noted' ? sayMember(e.member_id) : `${sayMember(e.member_id)} to ${sayMember(Number(e.data.owner))}`

function say(e: TrailEvent): string {
  const who = sayMember(e.member_id)
  switch (e.kind) {
    case 'arrived': return 'Arrived'
    case 'edited': return `Edited outside; before: “${String(e.data.before)}”`
    case 'removed': return 'Removed outside'
    case 'answered_outside': return 'Answered on the network itself'
    case 'assigned': return e.data.owner === null ? `${who} left it to nobody` : e.data.owner === e.member_id ? `${who} took it` : `${who} gave it to ${sayMember(Number(e.data.owner))}`
    case 'prioritised': return `${who} made it ${PRIORITIES[Number(e.data.priority)]}`
    case 'noted': return `${who} wrote a note`
    case 'kept': return `${who} kept it`
    case 'parked': return `${who} parked it until ${sayTime(String(e.data.until), props.zone)}`
    case 'returned': return 'Came back from parking'
    case 'settled': return `${e.member_id ? who : 'Sorta'} settled it: ${SETTLED[String(e.data.how)]}`
    case 'replied': return `${who} replied ${e.data.public ? 'publicly' : 'privately'}${e.data.settle ? ' and settled it' : ''}`
    case 'delivered': return 'Delivered'
    case 'refused': return `Refused: ${String(e.data.reason)}`
    case 'undone': return `${who} took that back`
    default: return e.kind
  }
}
</script>

<template>
  <aside class="scroll-quiet flex min-h-0 flex-1 flex-col gap-4 overflow-y-auto bg-paper px-3.5 py-3 text-[13px]" aria-label="Margin: only we see this" tabindex="0">
    <section v-if="c.awaiting_since">
      <h2 class="mb-1 text-xs font-semibold text-ink-2">Why it is due {{ sayTime(c.due ?? '', zone) }}</h2>
      <dl>
        <div class="flex justify-between gap-2 border-b border-dotted border-rule py-0.5"><dt class="font-semibold">They wait since</dt><dd>{{ sayTime(c.awaiting_since, zone) }}</dd></div>
        <div class="flex justify-between gap-2 border-b border-dotted border-rule py-0.5"><dt class="font-semibold">Target for {{ PRIORITIES[c.priority] }}</dt><dd>{{ sayLength(Date.parse(c.due ?? '') - Date.parse(c.awaiting_since)) }}</dd></div>
      </dl>
    </section>
    <section v-for="e in notes" :key="e.seq" class="rounded-r border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-2 text-honey-ink" aria-label="Team note">
      <small class="mb-0.5 block text-xs font-semibold text-honey">{{ titleOf(e) }}, {{ sayTime(e.at, zone) }}</small>
      <p class="break-words whitespace-pre-wrap" dir="auto">{{ noteOf(e) }}</p>
    </section>
    <section>
      <h2 class="mb-1 text-xs font-semibold text-ink-2">{{ sheet.person.name }}</h2>
      <p>
        {{ sheet.person.messages }} {{ sheet.person.messages === 1 ? 'message' : 'messages' }} in {{ sheet.person.conversations }}
        {{ sheet.person.conversations === 1 ? 'conversation' : 'conversations' }}, first {{ sayTime(sheet.person.first_at, zone) }}
      </p>
      <p v-for="i in sheet.person.identities" :key="i.network + i.handle" class="text-ink-2">
        <span class="text-sky">@{{ i.handle.replace(/^@/, '') }}</span> on {{ byNetwork.get(i.network)?.name }}<template v-if="i.reach !== null">, reach {{ i.reach }}</template>
      </p>
    </section>
    <section v-if="sheet.person.others.length">
      <h2 class="mb-1 text-xs font-semibold text-ink-2">Also from {{ sheet.person.name.split(' ')[0] }}</h2>
      <button v-for="o in sheet.person.others" :key="o.id" type="button" class="block w-full border-b border-dotted border-rule py-1 text-left hover:bg-fold" @click="$emit('open', o.id)">
        <span class="line-clamp-1">{{ o.preview }}</span>
        <span class="text-xs text-ink-2">{{ KINDS[o.kind] }}, {{ sayTime(o.last_at, zone) }}, {{ MOVE_WORDS[o.move] }}</span>
      </button>
    </section>
    <section>
      <h2 class="mb-1 text-xs font-semibold text-ink-2">Trail</h2>
      <ol data-test="trail">
        <li v-for="e in sheet.trail" :key="e.seq" class="grid grid-cols-[max-content_1fr] gap-2.5 py-0.5 text-[12.5px]" :class="undone.has(e.seq) ? 'text-ink-2 line-through' : ''">
          <time class="min-w-10 text-ink-2" :datetime="e.at">{{ sayTime(e.at, zone, now) }}</time>
          <span class="break-words">{{ say(e) }}</span>
        </li>
      </ol>
    </section>
  </aside>
</template>
