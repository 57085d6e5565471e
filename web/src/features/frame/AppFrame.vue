<script setup lang="ts">
/** What every place but the desk stands in: the band, and find-or-do. */
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useKeys } from '@/composables/useKeys'
import { useLive, type Notice } from '@/composables/useLive'
import FindPalette, { type Doable } from '@/features/find/FindPalette.vue'
import { usePlaces } from '@/features/find/usePlaces'
import TopBand from '@/features/frame/TopBand.vue'
import { useSession } from '@/stores/session'

const props = defineProps<{ doables?: Doable[] }>()
const emit = defineEmits<{ notice: [notice: Notice] }>()
const session = useSession()
const router = useRouter()
const isFinding = ref(false)
const { lostSince } = useLive(
  computed(() => session.workspaceId),
  (notice) => emit('notice', notice),
)
useKeys({ 'ctrl+k': () => (isFinding.value = true) })

const params = computed(() => ({ workspace: String(session.workspaceId) }))
const places = usePlaces()
const all = computed<Doable[]>(() => [...(props.doables ?? []), ...places.value])
</script>

<template>
  <div class="flex h-full flex-col print:block print:h-auto">
    <div class="contents print:hidden"><TopBand :lost-since="lostSince" @find="isFinding = true" /></div>
    <slot />
    <FindPalette
      v-if="isFinding"
      :workspace-id="session.workspaceId"
      :doables="all"
      @close="isFinding = false"
      @open="(id) => void router.push({ name: 'desk', params: { ...params, conversation: String(id) } })"
      @person="(id) => void router.push({ name: 'people', params: { ...params, person: String(id) } })"
      @all="(words) => void router.push({ name: 'desk', params, query: { move: 'any', words } })" />
  </div>
</template>
