<script setup lang="ts">
/** The workspaces one works in, what waits in each, and new ones. It belongs to none of them. */
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { api, take } from '@/api/client'
import type { MadeWorkspace, OwnWorkspace } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import NameMark from '@/components/ui/NameMark.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { sayDay } from '@/lib/words'
import { OWN_ZONE, ZONES } from '@/lib/zones'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const { data, ask, refetch } = useAsk<OwnWorkspace[]>('Your workspaces', {
  key: () => ['workspaces', session.session?.member_id ?? 0],
  query: () => take(api.GET('/api/workspaces')),
  staleTime: 0,
})
const open = computed(() => data.value?.filter((w) => !w.archived_at) ?? [])
const away = computed(() => data.value?.filter((w) => w.archived_at) ?? [])
const owned = computed(() => open.value.filter((w) => w.is_owner))
const from = ref('')
watch(
  owned,
  (all) => {
    from.value ||= String(all.find((w) => String(w.id) === route.query.from)?.id ?? all[0]?.id ?? '')
  },
  { immediate: true },
)
const name = ref('')
const zone = ref(OWN_ZONE)
const isCopy = ref(false)
const made = ref<(MadeWorkspace & { name: string }) | null>(null)
const { problem, isBusy, attempt } = useAttempt(() => Promise.all([refetch(), session.renew()]))
const parts = computed(() =>
  Object.entries(made.value?.copied ?? {})
    .filter(([, n]) => n)
    .map(([what, n]) => `${what} ${n}`)
    .join(', '),
)
const make = (): Promise<boolean> =>
  attempt(async () => {
    const said = name.value
    const done = await take(
      api.POST('/api/workspaces/{workspace_id}/copies', {
        params: { path: { workspace_id: Number(from.value) } },
        body: { name: said, time_zone: zone.value, copy_setup: isCopy.value },
      }),
    )
    made.value = { ...done, name: said }
    name.value = ''
  })
const bringBack = (one: OwnWorkspace): Promise<boolean> =>
  attempt(async () => {
    await take(
      api.POST('/api/archived/{workspace_number}/bring-back', { params: { path: { workspace_number: one.id } } }),
    )
  })
const input = 'mt-1 block w-full rounded border border-rule bg-raised px-2 py-1 text-[0.84375rem] font-normal text-ink'
</script>

<template>
  <main class="h-full overflow-y-auto p-6">
    <div class="mx-auto w-full max-w-2xl">
      <NameMark />
      <h1 class="mb-3 font-name text-2xl font-bold">Workspaces</h1>
      <LoadState :of="ask" :lines="6">
        <ul v-if="data" class="mb-4 rounded-lg border border-rule bg-sheet">
          <li v-for="w in open" :key="w.id" class="border-b border-rule-soft last:border-0" data-test="workspace">
            <RouterLink
              class="flex items-baseline justify-between gap-4 px-5 py-3 hover:bg-fold"
              :to="{ name: 'desk', params: { workspace: String(w.id) } }"
              ><span class="min-w-0"
                ><b class="block truncate font-name text-[0.9375rem]">{{ w.name }}</b
                ><span v-if="w.description" class="block text-[0.8125rem] break-words">{{ w.description }}</span
                ><span class="block text-xs text-ink-2">{{ w.role }} · times of {{ w.time_zone }}</span></span
              ><span class="shrink-0 text-[0.8125rem]" :class="w.waiting ? 'font-bold' : 'text-ink-2'">{{
                w.waiting ? `${w.waiting} wait` : 'nothing waits'
              }}</span></RouterLink
            >
          </li>
          <li v-if="!open.length" class="px-5 py-4 text-ink-2">
            You work in no workspace now. Who manages members of one can invite you.
          </li>
        </ul>
        <p v-if="problem" role="alert" class="mb-3 text-brick" data-test="workspaces-problem">{{ problem }}</p>
        <div v-if="made" role="status" class="mb-4 rounded-md border border-pine-line bg-sheet p-4" data-test="made">
          <p>
            <RouterLink
              class="font-bold text-pine underline"
              :to="{ name: 'start', params: { workspace: String(made.id) } }"
              >{{ made.name }}</RouterLink
            >
            is made, and you are its Owner.<template v-if="parts">
              Copied: {{ parts }}. Rules are switched off.</template
            >
          </p>
          <ul v-if="made.left_out.length" class="mt-2 list-disc pl-5 text-[0.8125rem]">
            <li v-for="words in made.left_out" :key="words">{{ words }}</li>
          </ul>
        </div>
        <form
          v-if="owned.length"
          class="mb-4 rounded-lg border border-rule bg-sheet p-5"
          data-test="new-workspace"
          @submit.prevent="make">
          <h2 class="mb-2 font-name text-lg font-bold">A new one</h2>
          <div class="grid gap-3 sm:grid-cols-2">
            <label class="block text-xs font-semibold text-ink-2"
              >What it is called<input v-model="name" required maxlength="60" :class="input" data-test="new-name"
            /></label>
            <label class="block text-xs font-semibold text-ink-2"
              >By which clock it works<select v-model="zone" :class="input">
                <option v-for="z in ZONES" :key="z" :value="z">{{ z }}</option>
              </select></label
            >
            <label class="block text-xs font-semibold text-ink-2"
              >It belongs beside<select v-model="from" :class="input">
                <option v-for="w in owned" :key="w.id" :value="String(w.id)">{{ w.name }}</option>
              </select></label
            >
            <label class="flex items-start gap-2 pt-4 text-[0.8125rem]"
              ><input v-model="isCopy" type="checkbox" class="mt-0.5 accent-pine" data-test="new-copy" /> and begins
              with its roles, tags, teams, saved replies, policies, rules and hours</label
            >
          </div>
          <UiButton kind="main" type="submit" class="mt-3" :disabled="isBusy || !from">Make it</UiButton>
        </form>
        <section v-if="away.length" class="rounded-lg border border-rule bg-sheet p-5" data-test="away">
          <h2 class="mb-2 font-name text-lg font-bold">Archived</h2>
          <ul>
            <li v-for="w in away" :key="w.id" class="flex items-baseline justify-between gap-4 py-1">
              <span>{{ w.name }}, since {{ sayDay(w.archived_at ?? '') }}</span>
              <button
                type="button"
                class="text-[0.8125rem] font-semibold underline"
                :disabled="isBusy"
                @click="bringBack(w)">
                Bring back
              </button>
            </li>
          </ul>
        </section>
      </LoadState>
    </div>
  </main>
</template>
