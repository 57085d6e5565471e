<script setup lang="ts">
/** Where the provider sends somebody back to who signs in by it: its word is taken, once. */
import { onMounted } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import { useEntering } from '@/composables/useEntering'
import NameMark from '@/components/ui/NameMark.vue'
import { takeNext } from '@/lib/next'
import { useSession } from '@/stores/session'

const route = useRoute()
const router = useRouter()
const session = useSession()
const response = window.location.search.slice(1)
const { problem, attempt } = useEntering(takeNext)
onMounted(async () => {
  // What it holds is of use once; it need not stay in the address, or in what the browser remembers.
  history.replaceState(history.state, '', route.path)
  await attempt(async () => {
    await take(api.POST('/api/session/provider/take', { body: { response } }))
    await session.enter()
    await router.replace(takeNext())
  })
})
</script>

<template>
  <main class="grid min-h-dvh place-items-center bg-paper p-6">
    <div class="w-full max-w-md rounded-md border border-rule bg-sheet p-6" data-test="back">
      <NameMark class="mb-4" />
      <p v-if="!problem" role="status">One moment: you are being signed in …</p>
      <template v-else>
        <h1 class="mb-2 font-name text-xl font-bold">Not signed in</h1>
        <p role="alert" class="mb-3">{{ problem }}</p>
        <RouterLink
          :to="{ name: 'sign-in' }"
          class="inline-block rounded bg-pine px-3 py-1.5 font-semibold text-on-pine"
          >To signing in</RouterLink
        >
      </template>
    </div>
  </main>
</template>
