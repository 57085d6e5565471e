<script setup lang="ts">
/** A rule as one sentence; what can be changed is underlined, what is done in pine, urgent in brick. */
import { computed } from 'vue'
import { sayRule, type Names } from '@/lib/rules'
import type { RuleBody } from '@/api/types'

const props = defineProps<{ body: RuleBody; names: Names; quiet?: boolean }>()
const pieces = computed(() => sayRule(props.body, props.names))
const tone = {
  ask: 'border-b-[1.5px] border-ink-3 font-semibold',
  do: 'border-b-[1.5px] border-pine font-semibold text-pine',
  urgent: 'border-b-[1.5px] border-brick font-semibold text-brick',
}
</script>

<template>
  <p class="text-[0.9375rem] leading-relaxed" :class="quiet ? 'text-ink-2' : ''">
    <span
      v-for="(p, n) in pieces"
      :key="n"
      :class="p.slot && !quiet ? tone[p.slot] : p.slot ? 'border-b border-ink-3 font-semibold' : ''"
      >{{ p.text }}</span
    >
  </p>
</template>
