<script setup lang="ts">
/**
 * A rule as one sentence; what can be changed is underlined, what is done in pine, urgent in brick. Beside what it was `before`,
 * what is new in it is marked and what has gone follows.
 */
import { computed } from 'vue'
import { sayRule, type Names } from '@/lib/rules'
import type { RuleBody } from '@/api/types'

const props = defineProps<{ body: RuleBody; names: Names; quiet?: boolean; before?: RuleBody | undefined }>()
const pieces = computed(() => sayRule(props.body, props.names))
const said = (all: typeof pieces.value): string[] => all.filter((p) => p.slot).map((p) => p.text)
const had = computed(() => (props.before ? said(sayRule(props.before, props.names)) : null))
const isNew = (text: string): boolean => had.value !== null && !had.value.includes(text)
const gone = computed(() => (had.value ?? []).filter((text) => !said(pieces.value).includes(text)))
const tone = {
  ask: 'border-b-[1.5px] border-ink-3 font-semibold',
  do: 'border-b-[1.5px] border-pine font-semibold text-pine',
  urgent: 'border-b-[1.5px] border-brick font-semibold text-brick',
}
</script>

<template>
  <p class="text-[0.9375rem] leading-relaxed" :class="quiet ? 'text-ink-2' : ''">
    <component
      :is="p.slot && isNew(p.text) ? 'ins' : 'span'"
      v-for="(p, n) in pieces"
      :key="n"
      :class="[
        p.slot && !quiet ? tone[p.slot] : p.slot ? 'border-b border-ink-3 font-semibold' : '',
        p.slot && isNew(p.text) ? 'bg-honey-wash no-underline' : '',
      ]"
      >{{ p.text }}</component
    >
    <template v-if="gone.length"
      ><span class="text-xs text-ink-2"> Before: </span
      ><template v-for="(text, n) in gone" :key="text"
        ><template v-if="n">, </template><del class="text-[0.8125rem] text-ink-2">{{ text }}</del></template
      ></template
    >
  </p>
</template>
