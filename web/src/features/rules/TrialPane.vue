<script setup lang="ts">
/** What a rule would have done: days, what would have come out, examples with their words marked. */
import { sayReads } from '@/lib/filters'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Trial } from '@/api/types'
import { EFFECT_WORDS, sayOutcome, type Names } from '@/lib/rules'
import { KINDS } from '@/lib/words'

const props = defineProps<{
  workspaceId: number
  trial: Trial
  names: Names
  title: string
  places: Map<number, number>
  onlyDiffering: boolean
}>()
const emit = defineEmits<{ cancel: []; days: [days: number]; more: []; only: [differing: boolean] }>()
const MANY_ANSWERS = 25
const MOST = 5000
const lists = computed(() => [
  { only: true, words: `${result.value?.differing.toLocaleString('en-GB')} that come out differently` },
  { only: false, words: 'these, and all that it meets' },
])
const result = computed(() => props.trial.result)
const most = computed(() => Math.max(1, ...(result.value?.days ?? []).map((d) => d.messages)))
const fullest = computed(() => [...(result.value?.days ?? [])].sort((a, b) => b.matched - a.matched)[0])
const sayDay = (day: string): string =>
  new Date(`${day}T12:00:00Z`).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' })
/** The text cut at the words that decided. */
function mark(text: string, words: string[]): { text: string; on: boolean }[] {
  const found = words.filter(Boolean).map((w) => w.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
  if (!found.length) return [{ text, on: false }]
  const all = new Set(words.map((w) => w.toLowerCase()))
  return text
    .split(new RegExp(`(${found.join('|')})`, 'giu'))
    .map((piece) => ({ text: piece, on: all.has(piece.toLowerCase()) }))
}
const wordsOf = (evidence: { words: string[] }[]): string[] => evidence.flatMap((e) => e.words)
const sayWhy = (e: {
  evidence: { type: string; value: string | null }[]
  reads_as: string[] | null
  sentiment: number | null
}): string =>
  e.reads_as?.length
    ? `reads as ${sayReads(e.reads_as)}${e.sentiment ? `, ${e.sentiment > 0 ? '+' : '−'}${Math.abs(e.sentiment).toFixed(2)}` : ''}`
    : ''
</script>

<template>
  <section class="text-[0.84375rem]" aria-label="Tried on the past" data-test="trial">
    <h2 class="font-name text-xl font-bold">{{ title }}, tried on {{ trial.days }} days</h2>
    <div v-if="!result" role="status" class="mt-2">
      <p class="text-ink-2">
        {{
          trial.state === 'failed'
            ? 'The trial failed; try it again.'
            : `${trial.done} of ${trial.total || '…'} messages read`
        }}
      </p>
      <div class="my-2 h-1.5 rounded bg-fold">
        <div
          class="h-1.5 rounded bg-pine"
          :style="{ width: `${trial.total ? (trial.done / trial.total) * 100 : 5}%` }" />
      </div>
      <button type="button" class="font-semibold text-pine underline" @click="emit('cancel')">Cancel</button>
    </div>
    <template v-else>
      <p class="text-ink-2">
        {{ result.messages.toLocaleString('en-GB') }} messages, {{ result.matched }} it would have met. Nothing has been
        changed.
      </p>
      <p v-if="result.levels?.likely !== undefined" class="text-ink-2" data-test="levels">
        Of how it reads: {{ result.levels.likely }} meet it where likely is enough, {{ result.levels.sure }} where it
        must be sure.
      </p>
      <p class="mt-1 flex gap-2 text-[0.8125rem]">
        <button
          v-for="d in [7, 14, 28]"
          :key="d"
          type="button"
          class="underline"
          :class="d === trial.days ? 'font-bold text-pine' : 'text-ink-2'"
          @click="emit('days', d)">
          {{ d }} days
        </button>
      </p>
      <div
        class="mt-3 flex h-16 items-end gap-1 border-b border-rule"
        role="img"
        :aria-label="`Messages by day; the most met on ${fullest ? sayDay(fullest.day) : 'no day'}`">
        <div
          v-for="d in result.days"
          :key="d.day"
          class="relative flex flex-1 flex-col-reverse"
          :title="`${sayDay(d.day)}: ${d.matched} of ${d.messages}`">
          <i class="block bg-pine" :style="{ height: `${(d.matched / most) * 60}px` }" /><i
            class="block bg-ink-2 opacity-60"
            :style="{ height: `${((d.messages - d.matched) / most) * 60}px` }" />
        </div>
      </div>
      <p class="flex justify-between text-xs text-ink-2">
        <span>{{ result.days[0] && sayDay(result.days[0].day) }}</span><span v-if="fullest?.matched"
          >most on {{ sayDay(fullest.day) }}: {{ fullest.matched }}</span
        ><span>{{ sayDay(result.days.at(-1)?.day ?? '') }}</span>
      </p>
      <table class="mt-3 w-full">
        <thead class="text-xs text-ink-2">
          <tr>
            <th scope="col" class="py-1 text-left font-semibold">What would have come out</th>
            <th scope="col" class="px-2 text-right font-semibold">by today's rules</th>
            <th scope="col" class="text-right font-semibold">with this</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="o in result.outcomes" :key="o.name" class="border-b border-dotted border-rule">
            <th scope="row" class="py-1 text-left font-normal">{{ sayOutcome(o.name, names) }}</th>
            <td class="px-2 text-right font-semibold">{{ o.before }}</td>
            <td class="text-right font-bold" :class="o.before === o.after ? '' : 'text-pine'">{{ o.after }}</td>
          </tr>
        </tbody>
      </table>
      <p
        v-for="l in result.lost"
        :key="l.effect + l.to"
        class="mt-2 border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-1 text-[0.8125rem] text-honey-ink"
        data-test="trial-lost">
        For {{ l.n }} of these {{ EFFECT_WORDS[l.effect] ?? l.effect }} was decided by rule
        {{ places.get(l.to) ?? l.to }} before.
      </p>
      <p
        v-if="result.stopped.length"
        class="mt-2 border-l-[3px] border-brick-line bg-brick-wash px-2.5 py-1 text-[0.8125rem] text-brick">
        More than 20 answers within 10 minutes: it would have stopped answering.
      </p>
      <p
        v-else-if="result.answers > MANY_ANSWERS"
        class="mt-2 border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-1 text-[0.8125rem] text-honey-ink">
        It would have answered {{ result.answers }} times. Read the examples before you trust it.
      </p>
      <p
        class="mt-3 flex flex-wrap gap-x-3 gap-y-1 text-[0.8125rem]"
        role="group"
        aria-label="Which messages are listed">
        <button
          v-for="one in lists"
          :key="one.words"
          type="button"
          class="underline"
          :class="one.only === onlyDiffering ? 'font-bold text-pine' : 'text-ink-2'"
          :aria-pressed="one.only === onlyDiffering"
          @click="emit('only', one.only)">
          {{ one.words }}
        </button>
      </p>
      <ul class="mt-2 grid grid-cols-[minmax(0,1fr)] gap-1.5">
        <li v-for="e in result.examples" :key="e.id">
          <RouterLink
            :to="{ name: 'desk', params: { workspace: String(workspaceId), conversation: String(e.conversation_id) } }"
            class="block rounded-md border border-rule-soft bg-sheet px-2.5 py-2 hover:border-rule"
            data-test="trial-example">
            <span class="flex justify-between gap-2 text-xs text-ink-2"
              ><span class="truncate">{{ e.person_name }}, {{ KINDS[e.kind] }} on {{ names.network(e.network) }}</span
              ><span class="whitespace-nowrap">{{ sayWhy(e) }}</span></span
            >
            <span class="line-clamp-3 break-words" dir="auto"
              ><component
                :is="p.on ? 'mark' : 'span'"
                v-for="(p, n) in mark(e.body, wordsOf(e.evidence))"
                :key="n"
                :class="p.on ? 'bg-honey-wash text-honey-ink' : ''"
                >{{ p.text }}</component
              ></span
            >
            <span v-for="name in e.comes" :key="'+' + name" class="block text-xs font-semibold text-pine"
              >New: {{ sayOutcome(name, names) }}</span
            >
            <span v-for="name in e.goes" :key="'-' + name" class="block text-xs text-ink-2"
              >No more: {{ sayOutcome(name, names) }}</span
            >
            <span v-if="!e.comes.length && !e.goes.length" class="text-xs text-ink-2"
              >Nothing would have come out differently</span
            >
          </RouterLink>
        </li>
      </ul>
      <p v-if="!result.examples.length" class="mt-1 text-ink-2">
        {{ onlyDiffering ? 'Nothing would have come out differently.' : 'It would have met nothing.' }}
      </p>
      <button
        v-if="result.more && result.examples.length < MOST"
        type="button"
        class="mt-2 font-semibold text-pine underline"
        data-test="trial-more"
        @click="emit('more')">
        Show more of the {{ result.more.toLocaleString('en-GB') }} left
      </button>
      <p v-else-if="result.more" class="mt-2 text-xs text-ink-2">
        {{ result.more.toLocaleString('en-GB') }} more are counted and not listed.
      </p>
    </template>
  </section>
</template>
