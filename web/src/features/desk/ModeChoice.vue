<script setup lang="ts">
/** Who can read what is being written: one of three, each with its own look and its own word for who reads it. */
import { computed, ref } from 'vue'
import type { ReplyMode } from '@/api/types'
import KeyCap from '@/components/ui/KeyCap.vue'
import { useKeys } from '@/composables/useKeys'
import { INKS, MODES } from './modes'

const props = defineProps<{
  mode: ReplyMode
  /** Of each who can read it, or why it is not possible here. */
  says: Record<ReplyMode, string>
  obstacles: Record<ReplyMode, string | null>
}>()
const emit = defineEmits<{ choose: [mode: ReplyMode]; turn: [mode: ReplyMode] }>()
const box = ref<HTMLElement | null>(null)
const ink = computed(() => INKS[props.mode])
/** By arrows the choice goes on to the next that is possible, and the focus with it. */
function turn(by: 1 | -1): void {
  const possible = MODES.map(([key]) => key).filter((key) => props.obstacles[key] === null)
  const next = possible[(possible.indexOf(props.mode) + by + possible.length) % possible.length]
  if (!next || next === props.mode) return
  emit('turn', next)
  box.value?.querySelector<HTMLElement>(`[data-mode=${next}]`)?.focus()
}
useKeys(
  { ArrowRight: () => turn(1), ArrowDown: () => turn(1), ArrowLeft: () => turn(-1), ArrowUp: () => turn(-1) },
  box,
)
</script>

<template>
  <div class="flex flex-wrap items-center border-b border-rule-soft text-[0.8125rem] lg:flex-nowrap">
    <div ref="box" class="flex flex-wrap" role="radiogroup" aria-label="Who can read it">
      <button
        v-for="[key, word, cap] in MODES"
        :key="key"
        type="button"
        role="radio"
        :aria-checked="mode === key"
        :aria-disabled="obstacles[key] !== null"
        :aria-describedby="`mode-${key}-says`"
        :tabindex="mode === key ? 0 : -1"
        :title="obstacles[key] ?? undefined"
        class="inline-flex items-center gap-1 px-2 py-1.5 font-semibold whitespace-nowrap first:rounded-tl-md forced-colors:border-2"
        :class="[
          mode === key ? [ink.tab, 'forced-colors:border-[Highlight]'] : 'text-ink-2 forced-colors:border-transparent',
          obstacles[key] ? 'cursor-not-allowed line-through decoration-1' : 'hover:underline',
        ]"
        :data-mode="key"
        @click="emit('choose', key)">
        {{ word }} <KeyCap v-if="obstacles[key] === null" :keys="cap" /><span
          :id="`mode-${key}-says`"
          class="sr-only"
          aria-hidden="true"
          >{{ obstacles[key] ?? says[key] }}</span
        >
      </button>
    </div>
    <span
      class="ml-auto truncate px-2 pb-1 text-xs lg:pb-0"
      :title="says[mode]"
      :class="ink.says"
      aria-hidden="true"
      data-test="readers"
      >{{ says[mode] }}</span
    >
  </div>
</template>
