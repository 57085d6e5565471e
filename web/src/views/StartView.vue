<script setup lang="ts">
/** The guided start: step by step, each by the very form that Setup has for it. What is done is told by what is there. */
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import type { StartStep } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { useDirectory } from '@/composables/useDirectory'
import AppFrame from '@/features/frame/AppFrame.vue'
import AboutWorkspace from '@/features/setup/AboutWorkspace.vue'
import AccountList from '@/features/setup/AccountList.vue'
import HoursForm from '@/features/setup/HoursForm.vue'
import InvitationList from '@/features/setup/InvitationList.vue'
import ReadyRules from '@/features/setup/ReadyRules.vue'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const { refetchAccounts } = useDirectory()
const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const {
  data: steps,
  ask,
  refetch,
} = useAsk<StartStep[]>('The first steps', {
  key: () => ['start', workspaceId.value],
  query: () =>
    take(api.GET('/api/workspaces/{workspace_id}/start', { params: { path: { workspace_id: workspaceId.value } } })),
  staleTime: 0,
})
const isOpen = (step: StartStep): boolean => !step.done && !step.skipped
/** The one in the address, where the first that is open is put: what is done stays in sight until one goes on. */
const shown = computed(() => steps.value?.find((s) => s.key === route.query.step) ?? null)
const left = computed(() => steps.value?.filter(isOpen).length ?? 0)
const show = (key: string): unknown => router.replace({ query: { step: key } })
watch(
  [steps, (): unknown => route.query.step],
  ([all]) => {
    const first = all?.find(isOpen) ?? all?.[0]
    if (first && !shown.value) void show(first.key)
  },
  { immediate: true },
)
const heading = ref<HTMLElement | null>(null)
watch(
  () => route.query.step,
  (now, before) => {
    if (now && before) heading.value?.focus()
  },
  { flush: 'post' },
)
const { problem, attempt } = useAttempt()
async function skip(on: boolean): Promise<void> {
  const step = shown.value
  if (!step) return
  const path = { workspace_id: workspaceId.value, key: step.key }
  const isSet = await attempt(() =>
    take(api.PUT('/api/workspaces/{workspace_id}/start/{key}', { params: { path }, body: { skipped: on } })),
  )
  if (!isSet) return
  await refetch()
  if (on) goOn()
}
/** To the next that is open after this one, else to any. */
function goOn(): void {
  const all = steps.value ?? []
  const at = all.findIndex((s) => s.key === shown.value?.key)
  const next = all.slice(at + 1).find(isOpen) ?? all.find((s) => isOpen(s) && s.key !== shown.value?.key)
  if (next) void show(next.key)
  else void router.push({ name: 'desk', params: { workspace: String(workspaceId.value) } })
}
async function look(): Promise<void> {
  await Promise.all([refetch(), refetchAccounts()])
}
const button = 'rounded border border-rule bg-raised px-3 py-1.5 font-semibold hover:bg-fold'
</script>

<template>
  <AppFrame @notice="look">
    <main class="min-h-0 flex-1 scroll-quiet overflow-y-auto p-6">
      <div class="mx-auto grid max-w-5xl gap-8 md:grid-cols-[220px_minmax(0,1fr)]">
        <nav aria-label="First steps" data-test="steps">
          <h1 class="mb-1 font-name text-2xl font-bold">First steps</h1>
          <p class="mb-3 text-[0.8125rem] text-ink-2">
            {{
              left
                ? `${left} to go. Leave whenever you like: all of it is kept, and in Setup, too.`
                : 'All done, or passed over.'
            }}
          </p>
          <ol class="border-l-2 border-rule">
            <li v-for="s in steps" :key="s.key">
              <button
                type="button"
                class="-ml-0.5 flex w-full items-baseline gap-2 border-l-2 py-1.5 pl-3 text-left"
                :class="s.key === shown?.key ? 'border-pine font-bold text-pine' : 'border-transparent'"
                :aria-current="s.key === shown?.key ? 'step' : undefined"
                @click="show(s.key)">
                <span class="min-w-0 flex-1">{{ s.words }}</span>
                <span class="text-xs font-normal text-ink-2">{{
                  s.done ? 'done' : s.skipped ? 'passed over' : ''
                }}</span>
              </button>
            </li>
          </ol>
          <RouterLink
            class="mt-4 block text-[0.8125rem] font-semibold text-pine underline"
            :to="{ name: 'desk', params: { workspace: String(workspaceId) } }"
            >To the desk</RouterLink
          >
        </nav>
        <div class="min-w-0">
          <LoadState :of="ask" :lines="6">
            <template v-if="shown">
              <p ref="heading" tabindex="-1" class="sr-only">{{ shown.words }}</p>
              <AboutWorkspace v-if="shown.key === 'about'" :workspace-id="workspaceId" @saved="look" />
              <HoursForm
                v-else-if="shown.key === 'hours'"
                :workspace-id="workspaceId"
                :may-manage="session.may('manage_rules')" />
              <ReadyRules v-else-if="shown.key === 'rules'" :workspace-id="workspaceId" @added="look" />
              <AccountList
                v-else-if="shown.key === 'account'"
                :workspace-id="workspaceId"
                :may-manage="session.may('manage_accounts')"
                :zone="zone" />
              <InvitationList
                v-else-if="session.may('manage_members')"
                :workspace-id="workspaceId"
                :zone="zone"
                @joined="look" />
              <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }}</p>
              <div class="mt-4 flex gap-2">
                <UiButton kind="main" data-test="next-step" @click="goOn">
                  {{ left > (isOpen(shown) ? 1 : 0) ? 'Next' : 'To the desk' }}
                </UiButton>
                <button v-if="isOpen(shown)" type="button" :class="button" @click="skip(true)">Pass it over</button>
                <button v-else-if="shown.skipped && !shown.done" type="button" :class="button" @click="skip(false)">
                  Take it up again
                </button>
              </div>
            </template>
          </LoadState>
        </div>
      </div>
    </main>
  </AppFrame>
</template>
