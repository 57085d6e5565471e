<script setup lang="ts">
import { Bell } from '@lucide/vue'
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import FailedBox from '@/components/ui/FailedBox.vue'
import KeyCap from '@/components/ui/KeyCap.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import SkipLinks from '@/features/frame/SkipLinks.vue'
import TourMark from '@/features/help/TourMark.vue'
import { useDirectory } from '@/composables/useDirectory'
import { useFailures } from '@/composables/useAsk'
import { useKeys } from '@/composables/useKeys'
import { useWaiting } from '@/composables/useWaiting'
import { recallDesk } from '@/features/desk/lastDesk'
import { sayTime, sayZone } from '@/lib/words'
import { useSession } from '@/stores/session'

/** Nobody writes into these by a key that opens them, so they may come a moment later. */
const AlertList = defineAsyncComponent(() => import('@/features/frame/AlertList.vue'))
const ScreenDialog = defineAsyncComponent(() => import('@/features/frame/ScreenDialog.vue'))
const props = defineProps<{ lostSince: number | null }>()
defineEmits<{ find: [] }>()
const session = useSession()
const router = useRouter()
const route = useRoute()
const isReadingAlerts = ref(false)
const isSettingScreen = ref(false)
const { waiting, wants, blocked, toggle, soon } = useWaiting(
  computed(() => session.workspaceId),
  computed(() => session.workspace?.name ?? ''),
)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
/** Said when the device's clock shows another time than the workspace's. */
const zoneWords = computed(() => sayZone(zone.value))
const { failures } = useFailures()
const stuck = computed(() => waiting.value?.stuck ?? [])
watch(
  () => props.lostSince,
  (lost) => lost === null && soon(),
)
const places = computed(() => {
  const params = { workspace: String(session.workspaceId) }
  return [
    // From elsewhere it leads back to where one was at the desk.
    {
      to:
        route.name === 'desk'
          ? { name: 'desk', params }
          : (recallDesk(session.workspaceId) ?? { name: 'desk', params }),
      word: 'Desk',
      due: 0,
    },
    { to: { name: 'day', params }, word: 'Day', due: 0 },
    { to: { name: 'overview', params }, word: 'Overview', due: 0 },
    { to: { name: 'approvals', params }, word: 'Approvals', due: waiting.value?.approvals ?? 0 },
    { to: { name: 'team', params }, word: 'Team', due: 0 },
    { to: { name: 'people', params }, word: 'People', due: waiting.value?.follow_ups ?? 0 },
    ...(session.may('see_reports') ? [{ to: { name: 'reports', params }, word: 'Reports', due: 0 } as const] : []),
    { to: { name: 'rules', params }, word: 'Rules', due: waiting.value?.to_review ?? 0 },
    { to: { name: 'setup', params }, word: 'Setup', due: 0 },
  ] as const
})
/** What one goes to more seldom, under a word of its own. */
const { directory } = useDirectory()
const more = computed(() => {
  const params = { workspace: String(session.workspaceId) }
  return [
    { to: { name: 'outgoing', params }, word: 'Outgoing' },
    ...(directory.value?.desks.length ? [{ to: { name: 'cases', params }, word: 'Cases' } as const] : []),
    { to: { name: 'draws', params }, word: 'Draws' },
    { to: { name: 'words', params }, word: 'Words' },
  ] as const
})
const everywhere = computed(() => [...places.value, ...more.value.map((m) => ({ ...m, due: 0 }))])
const title = computed(() => route.meta.title)
const isAtMore = computed(() => more.value.find((m) => m.word === title.value))
/** 0 stands for the page with all of them. */
const workspaces = computed(() => [
  ...(session.session?.workspaces ?? []).map((w) => ({ value: w.id, text: w.name, hint: w.role })),
  { value: 0, text: 'All workspaces' },
])
function goTo(id: number): void {
  void router.push(id ? { name: 'desk', params: { workspace: String(id) } } : { name: 'workspaces' })
}
/** Who looks on from outside the team sees the workspace's own colour, and on it what can be read. */
const looks = computed(() => {
  const { colour, ink } = session.workspace ?? {}
  return colour && ink && !session.may('sort') ? { background: colour, color: ink } : undefined
})
const picture = computed(() => {
  const of = session.workspace?.picture
  return of ? `/api/workspaces/${session.workspaceId}/picture?of=${of}` : null
})
const switcher = ref<{ open: () => void } | null>(null)
useKeys({ 'shift+w': () => switcher.value?.open() })

async function pick(what: 'notify' | 'screen' | 'account' | 'out'): Promise<void> {
  if (what === 'notify') return toggle()
  if (what === 'screen') {
    isSettingScreen.value = true
    return
  }
  if (what === 'account') {
    await router.push({ name: 'account' })
    return
  }
  await session.signOut()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <SkipLinks />
  <header class="flex h-11 shrink-0 items-center gap-1 bg-band px-2 text-band-ink sm:gap-4 sm:px-4">
    <span v-if="!looks" class="flex items-center gap-2 font-name text-[1.0625rem] font-bold tracking-tight">
      <svg width="20" height="18" viewBox="0 0 20 18" aria-hidden="true">
        <rect y="1" width="20" height="4" fill="#f0c75a" />
        <rect y="7" width="13" height="4" fill="#f4f1ea" />
        <rect y="13" width="7" height="4" fill="#8fb5a8" />
      </svg>
      <span class="hidden sm:inline">Sorta</span>
    </span>
    <div
      class="max-w-20 min-[24rem]:max-w-28 sm:max-w-none [&_[role=menu]]:text-ink"
      :class="
        looks
          ? 'flex h-8 items-center rounded pl-2 font-bold [&>div]:min-w-0 [&>div>button]:hover:bg-transparent [&>div>button]:hover:underline'
          : 'border-ink-2 text-band-ink-2 sm:border-l sm:pl-3 [&>div>button]:hover:bg-ink-2'
      "
      :style="looks"
      data-test="looks">
      <img v-if="looks && picture" :src="picture" alt="" class="size-6 rounded object-contain" />
      <PickMenu ref="switcher" label="Workspace" plain :choices="workspaces" @pick="goTo">
        <img v-if="!looks && picture" :src="picture" alt="" class="hidden size-5 rounded object-contain 2xl:inline" />
        <span class="truncate">{{ session.workspace?.name }}</span> <span aria-hidden="true">▾</span>
      </PickMenu>
    </div>
    <div class="text-band-ink-2 lg:hidden [&_[role=menu]]:text-ink">
      <PickMenu
        label="Places"
        plain
        :choices="everywhere.map((p, n) => ({ value: n, text: p.word, hint: p.due ? String(p.due) : '' }))"
        @pick="(n) => everywhere[n] && router.push(everywhere[n].to)"
        >{{ everywhere.find((p) => p.word === title)?.word ?? 'Places' }} <span aria-hidden="true">▾</span></PickMenu
      >
    </div>
    <nav class="hidden gap-0.5 lg:flex" aria-label="Places">
      <RouterLink
        v-for="p in places"
        :key="p.word"
        :to="p.to"
        class="rounded-[5px] px-2 py-1 text-[0.84375rem] whitespace-nowrap text-band-ink-2 hover:text-band-ink 2xl:px-3"
        active-class="place-on !bg-band-ink !text-band font-semibold"
        >{{ p.word
        }}<b
          v-if="p.due"
          class="ml-1.5 text-[#f0c75a] [.place-on_&]:text-[#7a5000]"
          :title="`${p.due} ${{ Rules: 'acts of rules to look at', Approvals: 'answers wait for your approval' }[p.word as string] ?? 'follow-ups are due'}`"
          >{{ p.due }}</b
        ></RouterLink
      >
      <div
        class="[&_[role=menu]]:text-ink"
        :class="
          isAtMore ? 'rounded-[5px] bg-band-ink text-band [&>div>button]:hover:bg-transparent' : 'text-band-ink-2'
        ">
        <PickMenu
          label="More places"
          plain
          :choices="more.map((m, n) => ({ value: n, text: m.word }))"
          data-test="more-places"
          @pick="(n) => more[n] && router.push(more[n].to)"
          ><span :class="isAtMore ? '' : 'font-normal'">{{ isAtMore?.word ?? 'More' }}</span>
          <span aria-hidden="true">▾</span></PickMenu
        >
      </div>
    </nav>
    <span
      v-if="lostSince !== null"
      role="status"
      class="rounded bg-honey-wash px-2 py-0.5 text-xs font-semibold text-honey"
      data-test="lost"
      >Connection lost since {{ sayTime(new Date(lostSince).toISOString(), zone) }}, trying again</span
    >
    <span
      v-else-if="zoneWords"
      class="line-clamp-2 hidden w-min min-w-16 shrink-[99] text-[0.6875rem] leading-tight text-band-ink-2 xl:block 2xl:w-auto 2xl:text-xs"
      :title="`${zoneWords}: all times here are on the workspace’s clock, not on this device’s`"
      data-test="zone"
      >{{ zoneWords }}</span
    >
    <button
      type="button"
      class="ml-auto flex min-w-0 items-center justify-between rounded-[5px] border border-ink-2 px-2.5 py-1 text-[0.8125rem] whitespace-nowrap text-band-ink-2 hover:border-band-ink-2 2xl:w-52"
      @click="$emit('find')">
      <span class="hidden lg:contents"><TourMark :n="5" class="mr-1" /></span
      ><span class="truncate">Find<span class="hidden sm:inline"> or do …</span></span>
      <KeyCap class="ml-2 shrink-0" keys="Ctrl K" />
    </button>
    <button
      type="button"
      class="relative rounded p-1 text-band-ink-2 hover:text-band-ink"
      :aria-label="waiting?.alerts ? `${waiting.alerts} alerts` : 'Alerts'"
      title="What you were told"
      data-test="bell"
      @click="isReadingAlerts = true">
      <Bell :size="16" aria-hidden="true" /><b
        v-if="waiting?.alerts"
        class="absolute -top-1 left-4 text-[0.6875rem] text-[#f0c75a]"
        >{{ waiting.alerts }}</b
      >
    </button>
    <div class="text-band-ink-2 [&_[role=menu]]:text-ink">
      <PickMenu
        label="Me"
        plain
        align="right"
        :choices="[
          { value: 'notify', text: wants ? 'Stop notifying me' : 'Notify me when I am elsewhere' },
          { value: 'screen', text: 'Your screen' },
          { value: 'account', text: 'How you sign in' },
          { value: 'out', text: 'Sign out', hint: session.session?.name ?? '' },
        ]"
        @pick="pick">
        <span
          class="grid size-[26px] place-items-center rounded-full bg-[#d8b24a] text-[0.6875rem] font-bold text-[#22251f]"
          >{{ session.session?.initials }}</span
        >
        <span class="sr-only">{{ session.session?.name }}</span>
      </PickMenu>
    </div>
    <ScreenDialog v-if="isSettingScreen" @close="isSettingScreen = false" />
    <AlertList
      v-if="isReadingAlerts"
      :workspace-id="session.workspaceId"
      :zone="session.workspace?.time_zone ?? 'UTC'"
      @close="((isReadingAlerts = false), soon())" />
  </header>
  <FailedBox
    v-for="f in failures"
    :key="f.reason"
    is-line
    class="shrink-0"
    :what="f.what"
    :reason="f.reason"
    :reference="f.reference"
    @retry="f.retry()" />
  <p
    v-if="blocked"
    role="alert"
    class="flex shrink-0 gap-3 border-b border-honey-line bg-honey-wash px-4 py-1 text-[0.8125rem] text-honey-ink"
    data-test="notifications-blocked">
    This browser lets no notification of Sorta through. Allow them for this address in the browser's site settings (the
    sign beside the address), then choose “Notify me” again.
    <button type="button" class="ml-auto underline" @click="blocked = false">Close</button>
  </p>
  <p
    v-for="s in stuck"
    :key="s.account_id"
    role="status"
    class="flex shrink-0 flex-wrap gap-x-1.5 border-b border-honey-line bg-honey-wash px-4 py-1 text-[0.8125rem] text-honey-ink md:flex-nowrap"
    data-test="stuck-account">
    <b class="md:whitespace-nowrap"
      >{{ s.answers === 1 ? 'An answer' : `${s.answers} answers` }} from {{ s.name }} on {{ s.network }}
      {{ s.answers === 1 ? 'is' : 'are' }} not out since {{ sayTime(s.since, zone) }}:</b
    >
    <span class="md:truncate short:hidden" :title="s.reason">{{ s.reason }}</span>
    <span v-if="s.is_paused" class="md:whitespace-nowrap">
      A new token is given in
      <RouterLink class="underline" :to="{ name: 'setup', params: { workspace: String(session.workspaceId) } }"
        >Setup</RouterLink
      >, and it goes out.
    </span>
    <span v-else class="md:whitespace-nowrap">
      Tried again by itself:
      <RouterLink class="underline" :to="{ name: 'outgoing', params: { workspace: String(session.workspaceId) } }"
        >Outgoing</RouterLink
      >
      says when.
    </span>
  </p>
  <p
    v-if="waiting?.held_reason"
    role="status"
    class="shrink-0 border-b border-honey-line bg-honey-wash px-4 py-1.5 text-[0.8125rem] text-honey-ink"
    data-test="held">
    <b>Nothing goes out: {{ waiting.held_reason }}.</b> What is written waits, and all of it goes when it is released in
    <RouterLink class="underline" :to="{ name: 'outgoing', params: { workspace: String(session.workspaceId) } }"
      >Outgoing</RouterLink
    >.
  </p>
</template>
