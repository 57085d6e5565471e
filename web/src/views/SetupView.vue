<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useDirectory } from '@/composables/useDirectory'
import { useKeys } from '@/composables/useKeys'
import { useLive } from '@/composables/useLive'
import FindPalette, { type Doable } from '@/features/find/FindPalette.vue'
import TopBand from '@/features/frame/TopBand.vue'
import AccountList from '@/features/setup/AccountList.vue'
import AsideList from '@/features/setup/AsideList.vue'
import { MOVES } from '@/lib/words'
import { useSession } from '@/stores/session'

const session = useSession()
const router = useRouter()
const { refetchAccounts } = useDirectory()
const workspaceId = computed(() => session.workspaceId)
const isFinding = ref(false)
const { connected } = useLive(workspaceId, (notice) => {
  if (notice.kind === 'accounts') void refetchAccounts()
})
useKeys({ 'ctrl+k': () => (isFinding.value = true) })

const params = computed(() => ({ workspace: String(workspaceId.value) }))
const doables = computed<Doable[]>(() => [
  ...MOVES.map(([move, word]) => ({
    words: `Desk: ${word}`,
    run: () => void router.push({ name: 'desk', params: params.value, query: { move } }),
  })),
])
</script>

<template>
  <div class="flex h-full flex-col">
    <TopBand :connected="connected" @find="isFinding = true" />
    <main class="scroll-quiet min-h-0 flex-1 overflow-y-auto p-6">
      <div class="mx-auto max-w-4xl">
        <h1 class="mb-4 font-name text-2xl font-bold">Setup</h1>
        <AccountList :workspace-id="workspaceId" :may-manage="session.may('manage_accounts')" />
        <AsideList v-if="session.may('manage_accounts')" :key="workspaceId" :workspace-id="workspaceId" />
      </div>
    </main>
    <FindPalette v-if="isFinding" :workspace-id="workspaceId" :doables="doables" @close="isFinding = false" @open="(id) => void router.push({ name: 'desk', params: { ...params, conversation: String(id) } })" />
  </div>
</template>
