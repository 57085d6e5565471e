<script setup lang="ts">
import { defineAsyncComponent, ref, watch } from 'vue'
import { RouterView, useRoute } from 'vue-router'
import FailedBox from '@/components/ui/FailedBox.vue'
import { useRenewal } from '@/composables/useRenewal'
import { useKeyRouter } from '@/composables/useKeys'
import { announced } from '@/lib/announcer'
import { wear } from '@/lib/screen'
import { sayTitle, waits } from '@/lib/title'
import { useSession } from '@/stores/session'

/** Fetched a moment after the page: it must be at hand when the server is not what it was. */
const bringGate = () => import('@/features/frame/SessionGate.vue')
const SessionGate = defineAsyncComponent(bringGate)
setTimeout(() => bringGate().catch(() => undefined), 4000)

const session = useSession()
const { failed } = useRenewal()
const again = (): void => window.location.assign(failed.value?.path ?? '/')
const keys = useKeyRouter()
const route = useRoute()
watch(
  [() => route.meta.title, () => ('workspace' in route.params ? waits.value : 0)],
  ([title, many]) => (document.title = sayTitle(title ?? '', many)),
  { immediate: true },
)
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
watch(
  () => session.session?.screen,
  (screen) => {
    keys.singleKeys = screen?.single_keys ?? 'plain'
    // Until one is signed in, this browser looks as it did for who was here last.
    if (screen) wear(screen)
  },
  { immediate: true },
)
</script>

<template>
  <FailedBox v-if="failed" is-line what="That place" :reason="failed.reason" @retry="again" />
  <RouterView />
  <SessionGate v-if="isGated" />
  <p class="sr-only" aria-live="polite" data-test="announcer">{{ announced }}</p>
</template>
