<script setup lang="ts">
/** Where a network sends somebody back to whom it has asked for leave: what it granted is taken, once, and what came of it is said. */
import { computed, onMounted, ref } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { api, take } from '@/api/client'
import type { Granted } from '@/api/types'
import NameMark from '@/components/ui/NameMark.vue'
import { useAttempt } from '@/composables/useAttempt'

const route = useRoute()
const response = window.location.search.slice(1)
const state = new URLSearchParams(response).get('state') ?? ''
/** The workspace that it was asked for in stands in the state. */
const workspace = computed(() => Number(state.split('.')[0]) || 0)
const granted = ref<Granted | null>(null)
const { problem, isBusy, attempt } = useAttempt()
onMounted(() => {
  // What it holds is of use once; it need not stay in the address, or in what the browser remembers.
  history.replaceState(history.state, '', route.path)
  void attempt(async () => {
    granted.value = await take(
      api.POST('/api/workspaces/{workspace_id}/accounts/grants', {
        params: { path: { workspace_id: workspace.value } },
        body: { network: String(route.params.network), response, state },
      }),
    )
  })
})
</script>

<template>
  <main class="grid min-h-dvh place-items-center bg-paper p-6">
    <div class="w-full max-w-md rounded-md border border-rule bg-sheet p-6" data-test="connected">
      <NameMark class="mb-4" />
      <p v-if="isBusy" role="status">One moment: what was granted is being taken …</p>
      <template v-else-if="granted">
        <h1 class="mb-2 font-name text-xl font-bold">{{ granted.name }} on {{ granted.network_name }}</h1>
        <p class="mb-3">
          {{
            granted.is_new
              ? 'It is connected. What was said there lately comes in within a minute.'
              : 'It is connected again. What waited for it goes out within a few seconds.'
          }}
        </p>
        <p v-for="one in granted.lacking" :key="one.words" class="mb-3 font-semibold text-honey-ink">
          Something is still missing. {{ one.words }}
          <a :href="one.address" class="underline" target="_blank" rel="noopener noreferrer">To the network’s page</a>
        </p>
      </template>
      <template v-else>
        <h1 class="mb-2 font-name text-xl font-bold">Not connected</h1>
        <p role="alert" class="mb-3" data-test="connected-problem">{{ problem || 'There is nothing to take here.' }}</p>
      </template>
      <RouterLink
        v-if="!isBusy"
        :to="workspace ? `/w/${workspace}/setup#accounts-title` : '/'"
        class="inline-block rounded bg-pine px-3 py-1.5 font-semibold text-on-pine"
        data-test="to-setup"
        >{{ workspace ? 'To Setup' : 'To the desk' }}</RouterLink
      >
    </div>
  </main>
</template>
