<script setup lang="ts">
/** What every place but the desk stands in: the band, and find-or-do. */
import { computed, ref } from 'vue'
import { SETUP_SECTIONS } from '@/lib/setup'
import { useRouter } from 'vue-router'
import { useKeys } from '@/composables/useKeys'
import { useLive, type Notice } from '@/composables/useLive'
import FindPalette, { type Doable } from '@/features/find/FindPalette.vue'
import TopBand from '@/features/frame/TopBand.vue'
import { MOVES } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{ doables?: Doable[] }>()
const emit = defineEmits<{ notice: [notice: Notice] }>()
const session = useSession()
const router = useRouter()
const isFinding = ref(false)
const { connected } = useLive(computed(() => session.workspaceId), (notice) => emit('notice', notice))
useKeys({ 'ctrl+k': () => (isFinding.value = true) })

const params = computed(() => ({ workspace: String(session.workspaceId) }))
const all = computed<Doable[]>(() => [
  ...(props.doables ?? []),
  ...MOVES.map(([move, word]) => ({ words: `Desk: ${word}`, run: () => void router.push({ name: 'desk', params: params.value, query: { move } }) })),
  { words: 'Overview: open work and the live feed', run: () => void router.push({ name: 'overview', params: params.value }) },
  { words: 'Approvals: answers that wait', run: () => void router.push({ name: 'approvals', params: params.value }) },
  { words: 'Team: who has what in hand', run: () => void router.push({ name: 'team', params: params.value }) },
  { words: 'Rules', run: () => void router.push({ name: 'rules', params: params.value }) },
  { words: 'What rules did by themselves', run: () => void router.push({ name: 'review', params: params.value }) },
  { words: 'People', run: () => void router.push({ name: 'people', params: params.value }) },
  ...SETUP_SECTIONS.map(([id, words]) => ({ words: `Setup: ${words}`, run: () => void router.push({ name: 'setup', params: params.value, hash: `#${id}` }) })),
])
</script>

<template>
  <div class="flex h-full flex-col">
    <TopBand :connected="connected" @find="isFinding = true" />
    <slot />
    <FindPalette v-if="isFinding" :workspace-id="session.workspaceId" :doables="all" @close="isFinding = false" @open="(id) => void router.push({ name: 'desk', params: { ...params, conversation: String(id) } })" />
  </div>
</template>
