<script setup lang="ts">
/** A part of a page as what it shows stands: waiting, failed, there. Empty is for whoever knows what is in it. */
import { onBeforeUnmount, onMounted } from 'vue'
import FailedBox from './FailedBox.vue'

interface Asked {
  readonly what: string
  readonly isThere: boolean
  readonly problem: { message: string; reference: string | null } | null
  readonly retry: () => void
  shownBy: number
}
const props = defineProps<{ of: Asked; lines?: number }>()
const shown = props.of
onMounted(() => (shown.shownBy += 1))
onBeforeUnmount(() => (shown.shownBy -= 1))
</script>

<template>
  <FailedBox
    v-if="of.problem"
    :what="of.what"
    :reason="of.problem.message"
    :reference="of.problem.reference"
    @retry="of.retry()" />
  <slot v-if="of.isThere" />
  <div v-else-if="!of.problem" role="status" aria-busy="true" :aria-label="`Loading: ${of.what}`" data-test="loading">
    <div v-for="n in lines ?? 3" :key="n" class="border-b border-rule-soft p-3">
      <div class="h-3 w-2/5 rounded bg-fold" />
      <div class="mt-2 h-3 w-4/5 rounded bg-fold" />
    </div>
  </div>
</template>
