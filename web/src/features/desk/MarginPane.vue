<script setup lang="ts">
/** What only we see: why it is due when it is, notes, the person, the trail. */
import { Mail } from '@lucide/vue'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { CameBack, ReplyMode, Sheet } from '@/api/types'
import WhatIs from '@/features/help/WhatIs.vue'
import KeyCap from '@/components/ui/KeyCap.vue'
import { useClock } from '@/composables/useClock'
import { useDirectory } from '@/composables/useDirectory'
import AdviceBox from '@/features/advice/AdviceBox.vue'
import CaseBox from '@/features/cases/CaseBox.vue'
import ProposalBox from '@/features/desk/ProposalBox.vue'
import ReadingBox from '@/features/desk/ReadingBox.vue'
import { listNotes, listUndone, noteOf, type Note } from '@/features/desk/left'
import { sayEvent, type EventNames } from '@/features/desk/sayEvent'
import WhyList from '@/features/desk/WhyList.vue'
import { KINDS, MOVE_WORDS, PRIORITIES, sayLength, sayTime } from '@/lib/words'

const props = defineProps<{
  workspaceId: number
  sheet: Sheet
  zone: string
  mayModerate: boolean
  maySort: boolean
  mayAsk: boolean
  me: number
}>()
defineEmits<{
  open: [id: number]
  block: []
  again: [mode: ReplyMode, back: CameBack]
  undo: [seq: number]
  ask: []
  correct: []
}>()
/** Here it says only which day it is, and whether a follow-up is due. */
const { now } = useClock(30_000)
const pane = ref<HTMLElement | null>(null)
/** To the last of what colleagues have left. */
const showLeft = (): void =>
  [...(pane.value?.querySelectorAll('[data-left]') ?? [])].at(-1)?.scrollIntoView({ block: 'center' })
defineExpose({ showLeft })
const { sayMember, directory, byMember, byNetwork, byTag, byTeam } = useDirectory()
const latest = computed(() => [...props.sheet.messages].reverse().find((m) => m.inbound))

const c = computed(() => props.sheet.conversation)
const undone = computed(() => listUndone(props.sheet.trail))
const notes = computed(() => listNotes(props.sheet.trail))
/** Whom a note here would answer: who wrote the last one, unless that was oneself. */
const lastBy = computed(() => {
  const by = notes.value.at(-1)?.member_id ?? null
  return by !== null && by !== props.me ? (byMember.value.get(by)?.name ?? '') : ''
})
const hasCase = computed(() => props.sheet.trail.some((e) => e.kind === 'handed_over'))
const titleOf = (e: Note): string =>
  e.kind === 'noted'
    ? sayMember(e.member_id)
    : `${sayMember(e.member_id)} to ${e.data.team ? byTeam.value.get(e.data.team) : sayMember(e.data.owner)}`

/** What the trail's numbers are called; a tag that has just been made is named as soon as the page has heard of it. */
const names: EventNames = {
  member: sayMember,
  team: (id) => byTeam.value.get(id) ?? '…',
  tag: (id) => byTag.value.get(id) ?? '…',
  sender: (id) => props.sheet.senders.find((s) => s.id === id)?.name ?? 'another page',
  time: (at) => sayTime(at, props.zone),
}
/** Each line once: it is shown, and named again beside what takes it back. */
const said = computed(() => new Map(props.sheet.trail.map((e) => [e.seq, sayEvent(e, names, c.value.public)])))
</script>

<template>
  <aside
    ref="pane"
    class="flex min-h-0 flex-1 scroll-quiet flex-col gap-4 overflow-y-auto bg-paper px-3.5 py-3 text-[0.8125rem]"
    aria-label="Margin: only we see this"
    tabindex="0">
    <section v-if="c.awaiting_since">
      <h2 class="mb-1 text-xs font-semibold text-ink-2">
        Why it is due {{ sayTime(c.due ?? '', zone) }}<WhatIs id="due" word="due" class="-my-1.5" />
      </h2>
      <dl>
        <div class="flex justify-between gap-2 border-b border-dotted border-rule py-0.5">
          <dt class="font-semibold">They wait since</dt>
          <dd>{{ sayTime(c.awaiting_since, zone) }}</dd>
        </div>
        <div class="flex justify-between gap-2 border-b border-dotted border-rule py-0.5">
          <dt class="font-semibold">Target for {{ PRIORITIES[c.priority] }}</dt>
          <dd>{{ sayLength(sheet.target_minutes * 60_000) }} of working time</dd>
        </div>
      </dl>
    </section>
    <WhyList :workspace-id="workspaceId" :sheet="sheet" :zone="zone" />
    <ReadingBox v-if="latest?.evidence" :message="latest" :may-correct="maySort" @correct="$emit('correct')" />
    <ProposalBox
      v-if="sheet.proposal"
      :workspace-id="workspaceId"
      :proposal="sheet.proposal"
      :zone="zone"
      :me="me"
      @again="(back) => $emit('again', sheet.proposal?.public ? 'public' : 'private', back)" />
    <CaseBox
      v-if="hasCase"
      data-left
      :workspace-id="workspaceId"
      :conversation="c.id"
      :zone="zone"
      :may-sort="maySort" />
    <AdviceBox
      v-for="a in sheet.advice"
      data-left
      :key="`a${a.id}`"
      :workspace-id="workspaceId"
      :advice="a"
      :zone="zone"
      :may-sort="maySort" />
    <section
      v-for="d in sheet.shared_drafts"
      :key="`d${d.member_id}`"
      data-left
      class="rounded border border-dashed border-plum px-2.5 py-2"
      data-test="shared-draft">
      <small class="mb-0.5 block text-xs font-semibold text-plum"
        >{{ sayMember(d.member_id) }} is writing
        {{ { public: 'a public reply', private: 'a private message', note: 'a note' }[d.mode] }}</small
      >
      <p class="break-words whitespace-pre-wrap" dir="auto">{{ d.body }}</p>
      <button
        v-if="maySort"
        type="button"
        class="mt-1 text-xs font-semibold underline"
        @click="$emit('again', d.mode, { text: d.body })">
        Write it on
      </button>
    </section>
    <section
      v-for="e in notes"
      :key="e.seq"
      class="rounded-r border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-2 text-honey-ink"
      data-left
      aria-label="Team note"
      data-test="team-note">
      <small class="mb-0.5 block text-xs font-semibold text-honey">{{ titleOf(e) }}, {{ sayTime(e.at, zone) }}</small>
      <p class="break-words whitespace-pre-wrap" dir="auto">{{ noteOf(e) }}</p>
    </section>
    <button
      v-if="maySort && lastBy"
      type="button"
      class="min-h-6 self-start text-xs font-semibold text-honey underline"
      data-test="answer-note"
      @click="$emit('again', 'note', { text: `@${lastBy} ` })">
      Answer {{ lastBy.split(' ')[0] }}
    </button>
    <button
      v-if="directory?.can_ask && mayAsk"
      type="button"
      class="flex items-center gap-1.5 text-xs font-semibold text-ink hover:underline"
      title="By mail, somebody without a login"
      data-test="ask-outside"
      @click="$emit('ask')">
      <Mail :size="14" class="text-sky" aria-hidden="true" />Ask somebody outside <KeyCap keys="Shift N" />
    </button>
    <section>
      <h2 class="mb-1 flex items-baseline gap-2 text-xs font-semibold text-ink-2">
        <RouterLink
          class="underline"
          :to="{ name: 'people', params: { workspace: String(workspaceId), person: String(sheet.person.id) } }"
          data-test="person-link"
          >{{ sheet.person.name }}</RouterLink
        >
        <b v-if="sheet.person.blocked" class="text-brick">blocked</b>
        <button v-if="mayModerate && sheet.can_block" type="button" class="ml-auto underline" @click="$emit('block')">
          {{ sheet.person.blocked ? 'Unblock' : 'Block' }}
        </button>
      </h2>
      <div v-if="sheet.person.standing !== null" class="mb-1 flex items-center gap-2.5" data-test="standing">
        <b class="font-name text-2xl leading-none">{{ sheet.person.standing }}</b>
        <span class="min-w-0 flex-1 text-xs text-ink-2"
          ><span class="mb-1 block h-1.5 rounded bg-fold"
            ><i class="block h-1.5 rounded bg-sky" :style="{ width: `${sheet.person.standing}%` }" /></span
          >standing, from {{ (sheet.person.points ?? 0).toFixed(1) }} points<WhatIs
            id="standing"
            word="standing"
            class="-my-1"
        /></span>
      </div>
      <p v-if="sheet.person.tags.length" class="mb-1 flex flex-wrap gap-1">
        <span v-for="t in sheet.person.tags" :key="t" class="rounded-sm bg-fold px-1.5 text-xs">{{
          byTag.get(t)
        }}</span>
      </p>
      <p>
        {{ sheet.person.messages }} {{ sheet.person.messages === 1 ? 'message' : 'messages' }} in
        {{ sheet.person.conversations }} {{ sheet.person.conversations === 1 ? 'conversation' : 'conversations' }},
        first {{ sayTime(sheet.person.first_at, zone) }}
      </p>
      <p v-for="i in sheet.person.identities" :key="i.network + i.handle" class="text-ink-2">
        <span class="text-sky">@{{ i.handle.replace(/^@/, '') }}</span> on {{ byNetwork.get(i.network)?.name
        }}<template v-if="i.reach !== null">, reach {{ i.reach }}</template
        ><b v-if="i.caution" class="block text-brick" data-test="caution">{{ i.caution }}</b>
      </p>
    </section>
    <section v-if="sheet.person.facts.length || sheet.person.follow_ups.length" data-test="known">
      <h2 class="mb-1 text-xs font-semibold text-ink-2">Known of {{ sheet.person.name.split(' ')[0] }}</h2>
      <dl v-if="sheet.person.facts.length">
        <div
          v-for="(f, n) in sheet.person.facts"
          :key="n"
          class="flex justify-between gap-2 border-b border-dotted border-rule py-0.5">
          <dt class="font-semibold">{{ f.name }}</dt>
          <dd class="min-w-0 text-right break-words" dir="auto">
            {{ f.value
            }}<span v-if="f.is_one_of_two" class="block text-xs text-honey-ink">another value stands there too</span>
          </dd>
        </div>
      </dl>
      <p
        v-for="(f, n) in sheet.person.follow_ups"
        :key="`f${n}`"
        class="mt-1 break-words"
        :class="Date.parse(f.due_at) < now ? 'font-semibold text-brick' : ''">
        {{ sayMember(f.member_id) }}, {{ sayTime(f.due_at, zone) }}: {{ f.words }}
      </p>
    </section>
    <section v-if="sheet.person.others.length">
      <h2 class="mb-1 text-xs font-semibold text-ink-2">Also from {{ sheet.person.name.split(' ')[0] }}</h2>
      <button
        v-for="o in sheet.person.others"
        :key="o.id"
        type="button"
        class="block w-full border-b border-dotted border-rule py-1 text-left hover:bg-fold"
        @click="$emit('open', o.id)">
        <span class="line-clamp-1">{{ o.preview }}</span>
        <span class="text-xs text-ink-2"
          >{{ KINDS[o.kind] }}, {{ sayTime(o.last_at, zone) }}, {{ MOVE_WORDS[o.move] }}</span
        >
      </button>
    </section>
    <section>
      <h2 class="mb-1 text-xs font-semibold text-ink-2">Trail</h2>
      <ol data-test="trail">
        <li
          v-for="e in sheet.trail"
          :key="e.seq"
          class="grid grid-cols-[max-content_1fr] gap-2.5 py-0.5 text-[0.78125rem]"
          :class="undone.has(e.seq) ? 'text-ink-2 line-through' : ''">
          <time class="min-w-10 text-ink-2" :datetime="e.at">{{ sayTime(e.at, zone, now) }}</time>
          <span class="break-words"
            >{{ said.get(e.seq)
            }}<template v-if="e.is_act && !undone.has(e.seq)">
              <button
                v-if="e.undo_obstacle === null"
                type="button"
                class="ml-1.5 font-semibold text-pine underline"
                :aria-label="`Undo: ${said.get(e.seq)}`"
                data-test="undo-at"
                @click="$emit('undo', e.seq)">
                undo
              </button>
              <span
                v-else-if="e.member_id === me"
                class="ml-1.5 cursor-help text-ink-2 underline decoration-dotted"
                :title="e.undo_obstacle"
                data-test="no-undo"
                >cannot be undone<span class="sr-only">: {{ e.undo_obstacle }}</span></span
              >
            </template></span
          >
        </li>
      </ol>
    </section>
  </aside>
</template>
