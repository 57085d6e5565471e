<script setup lang="ts">
/** How a case stands: on the way and not taken are told by their form too, not by colour alone. */
import type { CaseState } from '@/api/types'
import { CASE_WORDS } from './useCases'

defineProps<{ state: CaseState }>()
const LOOKS: Record<CaseState, string> = {
  opening: 'border-dashed border-ink-2 text-ink-2',
  open: 'border-sky text-sky',
  waiting: 'border-honey text-honey',
  solved: 'border-pine bg-pine text-on-pine',
  returned: 'border-brick text-brick',
  refused: 'border-brick text-brick border-dashed',
}
</script>

<template>
  <b class="rounded border px-1.5 py-px text-xs whitespace-nowrap" :class="LOOKS[state]" data-test="case-state">{{
    CASE_WORDS[state]
  }}</b>
</template>
