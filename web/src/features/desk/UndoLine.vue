<script setup lang="ts">
import KeyCap from '@/components/ui/KeyCap.vue'
import type { Acts } from './useActs'
import type { LeftAsItWas } from './useDeciding'

/** `left` were refused when the next was open already. */
defineProps<{ acts: Acts; left?: LeftAsItWas[] }>()
defineEmits<{ undo: []; open: [id: number]; drop: [] }>()
</script>

<template>
  <div
    class="pointer-events-none fixed bottom-3 left-3 z-30 flex max-w-[min(23.75rem,100vw-1.5rem)] flex-col items-start gap-2"
    aria-live="polite">
    <div
      v-if="left?.length"
      role="alert"
      class="pointer-events-auto flex items-start gap-3 rounded-md bg-brick-wash px-3 py-2 text-[0.8125rem] text-brick shadow-lg"
      data-test="left-as-it-was">
      <ul class="flex max-h-40 min-w-0 flex-col gap-1 overflow-y-auto">
        <li v-for="one in left" :key="one.id">
          {{ one.name }} was left as it was, not “{{ one.words }}”: {{ one.reason }}
          <button type="button" class="font-semibold underline" @click="$emit('open', one.id)">
            Open {{ one.name }}
          </button>
        </li>
      </ul>
      <button type="button" class="font-semibold underline" @click="$emit('drop')">Close</button>
    </div>
    <p
      v-if="acts.problem.value"
      role="alert"
      class="pointer-events-auto flex items-center gap-3 rounded-md bg-brick-wash px-3 py-2 text-[0.8125rem] text-brick shadow-lg">
      {{ acts.problem.value }}
      <button type="button" class="font-semibold underline" @click="acts.dismiss()">Close</button>
    </p>
    <p
      v-if="acts.takenBack.value"
      class="pointer-events-auto flex items-center gap-3 rounded-md bg-band px-3 py-2 text-[0.8125rem] text-band-ink shadow-lg"
      data-test="taken-back">
      Taken back: {{ acts.takenBack.value }}
      <button
        v-if="acts.stack.value.length"
        type="button"
        class="inline-flex items-center gap-1.5 font-semibold underline"
        @click="$emit('undo')">
        Also: {{ acts.stack.value.at(-1)?.words }} <KeyCap keys="Z" />
      </button>
    </p>
    <p
      v-else-if="acts.done.value"
      class="pointer-events-auto flex items-center gap-3 rounded-md bg-band px-3 py-2 text-[0.8125rem] text-band-ink shadow-lg"
      data-test="undo-line">
      {{ acts.done.value.words }}
      <button type="button" class="inline-flex items-center gap-1.5 font-semibold underline" @click="$emit('undo')">
        Undo <KeyCap keys="Z" />
      </button>
    </p>
  </div>
</template>
