<script setup lang="ts">
/** What a message was read as, and a member's better word on it. */
import type { Message } from '@/api/types'
import { ref } from 'vue'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { LABELS, LANGUAGES, READS_AS, sayLanguage, sayReads, type Label } from '@/lib/filters'

const props = defineProps<{ message: Message }>()
const emit = defineEmits<{
  close: []
  correct: [field: 'sentiment' | 'reads_as' | 'language', value: string | Label[] | null, words: string]
}>()
const TONES = ['negative', 'neutral', 'positive'] as const
const before: readonly string[] = props.message.reads_as ?? []
const labels = ref<Label[]>(LABELS.filter((l) => before.includes(l)))
const toggle = (label: Label): void => {
  labels.value = labels.value.includes(label) ? labels.value.filter((l) => l !== label) : [...labels.value, label]
}
const save = (): void =>
  emit('correct', 'reads_as', labels.value, `Reads as ${sayReads(labels.value) || 'none of these'}`)
const style = (on: boolean): string =>
  on ? 'border-pine bg-pine-wash font-semibold text-pine' : 'border-rule bg-sheet hover:bg-fold'
</script>

<template>
  <AppDialog open title="What it really says" @close="emit('close')">
    <p class="mb-3 line-clamp-3 text-ink-2" dir="auto">{{ message.body }}</p>
    <fieldset class="mb-3 flex flex-wrap gap-1.5">
      <legend class="mb-1 text-xs font-semibold text-ink-2">It reads as; several can be so</legend>
      <button
        v-for="label in LABELS"
        :key="label"
        type="button"
        class="rounded-full border px-2.5 py-0.5"
        :class="style(labels.includes(label))"
        :aria-pressed="labels.includes(label)"
        @click="toggle(label)">
        {{ READS_AS[label] }}
      </button>
      <button
        type="button"
        class="ml-auto rounded bg-pine px-3 py-0.5 font-semibold text-on-pine"
        data-test="save-labels"
        @click="save">
        {{ labels.length ? 'It is ' + sayReads(labels) : 'It is none of these' }}
      </button>
    </fieldset>
    <fieldset class="mb-3 flex flex-wrap gap-1.5">
      <legend class="mb-1 text-xs font-semibold text-ink-2">Sentiment</legend>
      <button
        v-for="t in TONES"
        :key="t"
        type="button"
        class="rounded-full border px-2.5 py-0.5"
        :class="style(message.tone === t)"
        @click="emit('correct', 'sentiment', t, `Sentiment ${t}`)">
        {{ t }}
      </button>
    </fieldset>
    <fieldset class="flex flex-wrap gap-1.5">
      <legend class="mb-1 text-xs font-semibold text-ink-2">Language</legend>
      <button
        v-for="l in LANGUAGES"
        :key="l"
        type="button"
        class="rounded-full border px-2.5 py-0.5"
        :class="style(message.language === l)"
        @click="emit('correct', 'language', l, sayLanguage(l))">
        {{ sayLanguage(l) }}
      </button>
    </fieldset>
    <p class="mt-3 text-xs text-ink-2">
      Your word wins and is counted: Setup shows how often the reading was right here.
    </p>
    <UiButton class="mt-2" @click="emit('close')">Leave it</UiButton>
  </AppDialog>
</template>
