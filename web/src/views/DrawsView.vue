<script setup lang="ts">
/** Prize draws: the list, one of them in full, or announcing one. */
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { DrawOne, DrawRules } from '@/api/types'
import WhatIs from '@/features/help/WhatIs.vue'
import { useClock } from '@/composables/useClock'
import type { Notice } from '@/composables/useLive'
import DrawForm from '@/features/draws/DrawForm.vue'
import DrawSheet from '@/features/draws/DrawSheet.vue'
import { useDraws } from '@/features/draws/useDraws'
import AppFrame from '@/features/frame/AppFrame.vue'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const { now } = useClock(5000)
const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const mayDraw = computed(() => session.may('draw_prizes'))
const openId = computed(() => ('draw' in route.params && route.params.draw ? Number(route.params.draw) : null))
const post = computed(() => (Number(route.query.post) ? Number(route.query.post) : null))
const isNew = computed(() => route.query.new === 'true' || post.value !== null)
const state = useDraws(workspaceId, openId)
const at = (id: number | null, query: Record<string, string> = {}) => ({
  name: 'draws' as const,
  params: { workspace: String(workspaceId.value), ...(id === null ? {} : { draw: String(id) }) },
  query,
})
async function announce(under: number, rules: DrawRules): Promise<void> {
  const made = await state.announce(under, rules)
  if (made) await router.push(at(made.id))
}
/** A list is closed by the clock, and colleagues draw. */
function onNotice(notice: Notice): void {
  if (notice.kind === 'draws' || notice.kind === 'everything') void state.refetch()
}
function stands(d: DrawOne): string {
  if (d.cancelled_at) return 'Cancelled'
  if (d.drawn_at) return `Drawn ${sayTime(d.drawn_at, zone.value)}`
  return Date.parse(d.deadline) > now.value ? `Open until ${sayTime(d.deadline, zone.value)}` : 'To be drawn'
}
</script>

<template>
  <AppFrame @notice="onNotice">
    <main class="grid min-h-0 flex-1 grid-cols-1 md:grid-cols-[minmax(260px,320px)_minmax(0,1fr)]">
      <section
        class="min-h-0 flex-col border-r border-rule"
        :class="openId === null && !isNew ? 'flex' : 'hidden md:flex'"
        aria-label="Draws">
        <div class="flex items-center border-b border-rule-soft px-4 py-2">
          <h1 class="font-name text-lg font-bold">Prize draws<WhatIs id="draw" word="a draw" /></h1>
          <button
            v-if="mayDraw"
            type="button"
            class="ml-auto rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold"
            data-test="new-draw"
            @click="router.push(at(null, { new: 'true' }))">
            New
          </button>
        </div>
        <ul class="min-h-0 flex-1 scroll-quiet overflow-y-auto" tabindex="0" aria-label="All draws" data-test="draws">
          <li v-for="d in state.draws.value ?? []" :key="d.id">
            <button
              type="button"
              class="block w-full border-b border-rule-soft px-4 py-2 text-left"
              :class="d.id === openId ? 'bg-sheet outline-2 -outline-offset-2 outline-pine' : 'hover:bg-sheet'"
              :aria-current="d.id === openId"
              @click="router.push(at(d.id))">
              <b class="block truncate">{{ d.rules.name }}</b><span class="text-xs text-ink-2"
                >{{ stands(d) }}<template v-if="d.drawn_at">, {{ d.entries }} entries</template></span
              >
            </button>
          </li>
          <li v-if="state.draws.value && !state.draws.value.length" class="px-4 py-6 text-[0.8125rem] text-ink-2">
            No draws yet.
          </li>
        </ul>
      </section>
      <section class="min-h-0 scroll-quiet overflow-y-auto bg-sheet" aria-label="Draw">
        <DrawForm
          v-if="isNew && mayDraw"
          :key="post ?? 0"
          :workspace-id="workspaceId"
          :zone="zone"
          :post="post"
          :problem="state.problem.value"
          @announce="announce"
          @close="router.push(at(null))" />
        <DrawSheet
          v-else-if="openId !== null && state.draw.value"
          :key="openId"
          :draw="state.draw.value"
          :workspace-id="workspaceId"
          :zone="zone"
          :now="now"
          :may-draw="mayDraw"
          :problem="state.problem.value"
          :notify="(saved, places) => state.notify(openId ?? 0, saved, places)"
          @draw="(value) => state.drawNow(openId as number, value)"
          @cancel="state.cancel(openId)" />
        <p v-else-if="state.error.value && openId !== null" role="alert" class="p-8 text-brick">
          {{ state.error.value.message }}
        </p>
        <p v-else class="hidden p-8 text-center text-ink-2 md:block">
          A draw picks winners among those who spoke under a post, so that anybody can check it again.
        </p>
      </section>
    </main>
  </AppFrame>
</template>
