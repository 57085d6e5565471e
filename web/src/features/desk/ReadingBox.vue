<script setup lang="ts">
/** How their latest message reads: what it may be, how sure that is, and the words that weighed most. */
import { computed, ref } from 'vue'
import type { Message } from '@/api/types'
import WhatIs from '@/features/help/WhatIs.vue'
import { LABELS, sayLabel, SURENESS } from '@/lib/filters'

const props = defineProps<{ message: Message; mayCorrect: boolean }>()
defineEmits<{ correct: [] }>()
const showsChances = ref(false)
const evidence = computed(() => props.message.evidence)
const said = (field: 'reads_as' | 'sentiment'): boolean => evidence.value?.corrected.includes(field) ?? false
const percent = (chance: number): string => `${Math.round(chance * 100)} %`
const quote = (words: readonly string[] | undefined): string =>
  words?.map((w) => `“${w}”`).join(', ') || 'the whole sentence'
const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1)
interface Line {
  label: string
  what: string
  sureness: string
  words: string
}
const lines = computed<Line[]>(() => {
  const e = evidence.value
  if (!e) return []
  if (said('reads_as'))
    return (props.message.reads_as ?? []).map((l) => ({
      label: l,
      what: sayLabel(l),
      sureness: 'said by a member',
      words: '',
    }))
  return LABELS.filter((l) => e.sureness[l]).map((l) => ({
    label: l,
    what: sayLabel(l),
    sureness: showsChances.value ? percent(e.chances[l] ?? 0) : (SURENESS[e.sureness[l] ?? ''] ?? ''),
    words: quote(e.words[l]),
  }))
})
const isUnsure = computed(() => props.message.reads_as?.[0] === 'not_sure')
const tone = computed(() => {
  const e = evidence.value
  if (!e || (!props.message.tone && !Object.keys(e.tones).length)) return null
  if (said('sentiment')) return { what: props.message.tone ?? '', sureness: 'said by a member', words: '' }
  if (!props.message.tone) return { what: 'not sure how they feel', sureness: '', words: '' }
  return {
    what: props.message.tone,
    sureness: showsChances.value ? percent(e.tones[props.message.tone] ?? 0) : '',
    words: props.message.tone === 'neutral' ? '' : quote(e.sentiment_words),
  }
})
</script>

<template>
  <section data-test="evidence">
    <h2 class="mb-1 flex items-baseline justify-between text-xs font-semibold text-ink-2">
      <span>How it reads<WhatIs id="reads-as" word="reads as" class="-my-1.5" /></span>
      <button
        type="button"
        class="rounded px-1 font-semibold text-pine hover:underline"
        :aria-pressed="showsChances"
        data-test="chances"
        @click="showsChances = !showsChances">
        {{ showsChances ? 'in words' : 'in numbers' }}
      </button>
    </h2>
    <p
      v-if="isUnsure"
      class="mb-1 border-l-[3px] border-honey-line bg-honey-wash px-2 py-1 text-honey-ink"
      data-test="unsure">
      Not sure what this is; no rule goes by it.
      <button v-if="mayCorrect" type="button" class="font-semibold underline" @click="$emit('correct')">
        Say it (C)
      </button>
    </p>
    <dl
      class="[&_dd]:text-right [&_dt]:font-semibold [&>div]:flex [&>div]:justify-between [&>div]:gap-2 [&>div]:border-b [&>div]:border-dotted [&>div]:border-rule [&>div]:py-0.5">
      <div v-for="l in lines" :key="l.label" :data-label="l.label">
        <dt>
          {{ capital(l.what) }}<span class="font-normal text-ink-2">, {{ l.sureness }}</span>
        </dt>
        <dd>{{ l.words }}</dd>
      </div>
      <div v-if="!lines.length">
        <dt class="font-normal!">No question, complaint, praise, thanks or spam</dt>
        <dd></dd>
      </div>
      <div v-if="tone">
        <dt>
          {{ capital(tone.what) }}<span v-if="tone.sureness" class="font-normal text-ink-2">, {{ tone.sureness }}</span>
        </dt>
        <dd>{{ tone.words }}</dd>
      </div>
      <div v-if="evidence?.first_contact">
        <dt>First contact</dt>
        <dd>never wrote before</dd>
      </div>
      <div v-if="evidence?.bare_mention">
        <dt>Bare mention</dt>
        <dd>only names somebody</dd>
      </div>
    </dl>
  </section>
</template>
