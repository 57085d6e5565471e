<script setup lang="ts">
import { ref, watch } from 'vue'
import { RouterView } from 'vue-router'
import FailedBox from '@/components/ui/FailedBox.vue'
import { useRenewal } from '@/composables/useRenewal'
import { useKeyRouter } from '@/composables/useKeys'
import SessionGate from '@/features/frame/SessionGate.vue'
import { useSession } from '@/stores/session'

const session = useSession()
const { failed } = useRenewal()
const again = (): void => window.location.assign(failed.value?.path ?? '/')
const keys = useKeyRouter()
/** Whoever is in the middle of a word ends it first: not a letter of it goes astray. */
const PAUSE = 1000
const isGated = ref(false)
watch(
  () => session.gate,
  async (gate) => {
    while (gate !== null && gate === session.gate && performance.now() - keys.lastTyped < PAUSE)
      await new Promise((resolve) => setTimeout(resolve, PAUSE / 4))
    isGated.value = session.gate !== null
  },
)
/** The caps beside the buttons follow by style. */
watch(
  () => session.session?.single_keys ?? 'plain',
  (how) => {
    keys.singleKeys = how
    document.documentElement.dataset.singleKeys = how
  },
  { immediate: true },
)
</script>

<template>
  <FailedBox v-if="failed" is-line what="That place" :reason="failed.reason" @retry="again" />
  <RouterView />
  <SessionGate v-if="isGated" />
</template>
