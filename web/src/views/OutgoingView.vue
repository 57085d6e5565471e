<script setup lang="ts">
/** What has not gone out yet and why, what is to be sent later, what networks would not have; and holding all of it. */
import { useAsk } from '@/composables/useAsk'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { LetterEntry, Outgoing, WaitingEntry } from '@/api/types'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import UiButton from '@/components/ui/UiButton.vue'
import WhenDialog from '@/components/ui/WhenDialog.vue'
import LoadState from '@/components/ui/LoadState.vue'
import { useDirectory } from '@/composables/useDirectory'
import type { Notice } from '@/composables/useLive'
import { useSoon } from '@/composables/useSoon'
import { listOften } from '@/features/desk/later'
import AppFrame from '@/features/frame/AppFrame.vue'
import HoldForm from '@/features/outgoing/HoldForm.vue'
import { MODERATION, sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const session = useSession()
const { byNetwork, sayMember } = useDirectory()
const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const me = computed(() => session.session?.member_id ?? 0)
const path = computed(() => ({ workspace_id: workspaceId.value }))
const { data, refetch, ask } = useAsk<Outgoing>('What goes out', {
  key: () => ['outgoing', workspaceId.value],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/outgoing', { params: { path: path.value } })),
})
const timing = ref<Outgoing['scheduled'][number] | null>(null)
const later = computed(() => data.value?.scheduled.filter((s) => s.state === 'waiting') ?? [])
const stopped = computed(() => data.value?.scheduled.filter((s) => s.state === 'stopped') ?? [])
const desk = (conversation: number) => ({
  name: 'desk',
  params: { workspace: String(workspaceId.value), conversation: String(conversation) },
})
const sayWhat = (what: string, isPublic: boolean): string =>
  what === 'reply' ? (isPublic ? 'public reply' : 'private message') : (MODERATION[what]?.word.toLowerCase() ?? what)
const sayWho = (one: { member_id: number | null; rule_id: number | null }): string =>
  one.rule_id !== null && one.member_id === null ? 'a rule' : sayMember(one.member_id)
function sayWhy(one: WaitingEntry): string {
  switch (one.why) {
    case 'held':
      return 'Held for the whole workspace'
    case 'paused':
      return one.paused_reason ?? 'The account is paused'
    case 'sending':
      return 'Being sent'
    case 'behind':
      return 'Waits for the one before it in this conversation'
    case 'again':
      return `${one.problem ?? 'It did not work'} Try ${one.attempts + 1} at ${sayTime(one.not_before, zone.value)}`
    case 'silent':
      return `The network has not answered since ${sayTime(one.silent_since ?? one.queued_at, zone.value)}: goes when it does`
    case 'limit':
      return `The network's limit of requests a minute: goes at ${sayTime(one.not_before, zone.value)}`
    default:
      return 'Goes in a moment'
  }
}
const { problem, attempt } = useAttempt(refetch)
const tryNow = (id: number): Promise<boolean> =>
  attempt(() =>
    take(
      api.POST('/api/workspaces/{workspace_id}/outgoing/{outgoing_id}/try', {
        params: { path: { ...path.value, outgoing_id: id } },
      }),
    ),
  )
const LETTERS: Record<LetterEntry['what'], string> = {
  question: 'Question outside',
  case: 'Case',
  report: 'Report by mail',
  invitation: 'Invitation',
  alert_mail: 'Alerts by mail',
  alert_text: 'Alerts by text message',
  event: 'Events for a program',
}
const triedSoon = ref(false)
/** The clock comes by once a minute. */
async function tryLetters(): Promise<void> {
  await attempt(async () => {
    await take(api.POST('/api/workspaces/{workspace_id}/letters/try', { params: { path: path.value } }))
    triedSoon.value = true
  })
}
const sayLetter = (one: LetterEntry): string =>
  one.next_at ? `${one.problem} Try ${one.tries + 1} at ${sayTime(one.next_at, zone.value)}` : one.problem
const takeBack = (id: number): Promise<boolean> =>
  attempt(() =>
    take(
      api.DELETE('/api/workspaces/{workspace_id}/scheduled/{scheduled_id}', {
        params: { path: { ...path.value, scheduled_id: id } },
      }),
    ),
  )
async function move(sendAt: string): Promise<void> {
  const one = timing.value
  timing.value = null
  if (!one) return
  await attempt(async () => {
    const sheet = await take(
      api.GET('/api/workspaces/{workspace_id}/conversations/{conversation_id}', {
        params: { path: { ...path.value, conversation_id: one.conversation_id } },
      }),
    )
    // Whoever changes it here has not read the conversation: what they wrote since still stops it.
    await take(
      api.PUT('/api/workspaces/{workspace_id}/scheduled/{scheduled_id}', {
        params: { path: { ...path.value, scheduled_id: one.id } },
        body: { text: one.body, send_at: sendAt, seen_seq: sheet.scheduled?.seen_seq ?? 0 },
      }),
    )
  })
}
const soon = useSoon(refetch, 300)
function onNotice(notice: Notice): void {
  if (['outgoing', 'conversations', 'accounts', 'everything'].includes(notice.kind)) soon()
}
const head = 'mb-1 font-name text-lg font-bold'
const row =
  'grid grid-cols-[34px_minmax(0,1fr)_minmax(0,260px)_auto] items-baseline gap-x-3 border-b border-rule-soft px-4 py-2 text-[0.8125rem] last:border-0'
</script>

<template>
  <AppFrame @notice="onNotice">
    <main class="relative min-h-0 flex-1 scroll-quiet overflow-y-auto p-4 md:p-6">
      <LoadState v-if="!data" :of="ask" />
      <div v-if="data" class="mx-auto max-w-5xl">
        <h1 class="mb-3 font-name text-2xl font-bold">Outgoing</h1>
        <HoldForm
          :workspace-id="workspaceId"
          :may-hold="session.may('hold_outgoing')"
          :data="data"
          @changed="refetch" />
        <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }}</p>
        <h2 :class="head">
          Waiting to go out <span class="text-ink-2">{{ data.waiting.length }}</span>
        </h2>
        <ul class="mb-6 rounded-md border border-rule bg-sheet" data-test="waiting">
          <li v-for="one in data.waiting" :key="one.id" :class="row">
            <NetworkMark
              :letters="byNetwork.get(one.network)?.letters ?? ''"
              :name="byNetwork.get(one.network)?.name ?? one.network" />
            <span class="min-w-0"
              ><RouterLink class="font-bold hover:underline" :to="desk(one.conversation_id)">{{
                one.person_name
              }}</RouterLink>
              <span class="ml-1.5 text-ink-2"
                >{{ sayWhat(one.what, one.public) }} by {{ sayWho(one) }}, {{ sayTime(one.queued_at, zone) }}</span
              ><span v-if="one.what === 'reply'" class="block truncate" dir="auto">{{ one.body }}</span></span
            >
            <span
              :class="['held', 'paused', 'again', 'silent'].includes(one.why) ? 'text-brick' : 'text-ink-2'"
              data-test="why-waiting"
              >{{ sayWhy(one) }}</span
            >
            <button
              v-if="(one.why === 'again' || one.why === 'silent') && session.may('sort')"
              type="button"
              class="font-semibold underline"
              @click="tryNow(one.id)">
              Try now
            </button>
            <RouterLink
              v-else-if="one.why === 'paused' && session.may('manage_accounts')"
              class="font-semibold underline"
              :to="{ name: 'setup', params: { workspace: String(workspaceId) } }"
              >New token</RouterLink
            >
          </li>
          <li v-if="!data.waiting.length" class="px-4 py-3 text-[0.8125rem] text-ink-2">
            Nothing waits: all that was sent has gone out.
          </li>
        </ul>
        <template v-if="data.letters.length">
          <div class="flex items-baseline gap-3">
            <h2 :class="head">
              Letters and the like that were not taken <span class="text-ink-2">{{ data.letters.length }}</span>
            </h2>
            <p v-if="triedSoon" role="status" class="text-[0.8125rem] text-ink-2">Tried again within a minute.</p>
            <UiButton v-else-if="session.may('sort') && data.letters.some((l) => l.next_at)" @click="tryLetters"
              >Try all now</UiButton
            >
          </div>
          <ul class="mb-6 rounded-md border border-rule bg-sheet" data-test="letters">
            <li
              v-for="(one, n) in data.letters"
              :key="n"
              class="grid grid-cols-[minmax(0,1fr)_minmax(0,380px)] items-baseline gap-x-3 border-b border-rule-soft px-4 py-2 text-[0.8125rem] last:border-0">
              <span class="min-w-0"
                ><b>{{ LETTERS[one.what] }}</b> to
                <RouterLink v-if="one.conversation_id" class="underline" :to="desk(one.conversation_id)">{{
                  one.to_whom
                }}</RouterLink><template v-else>{{ one.to_whom }}</template
                ><span class="ml-1.5 text-ink-2"
                  >{{ one.many > 1 ? `${one.many}, since` : 'since' }} {{ sayTime(one.since, zone) }}</span
                ><span v-if="one.about" class="block truncate" dir="auto">{{ one.about }}</span></span
              >
              <span class="text-brick">{{ sayLetter(one) }}</span>
            </li>
          </ul>
        </template>
        <h2 :class="head">
          To be sent later <span class="text-ink-2">{{ later.length }}</span>
        </h2>
        <ul class="mb-6 rounded-md border border-rule bg-sheet" data-test="scheduled">
          <li v-for="one in later" :key="one.id" :class="row">
            <NetworkMark
              :letters="byNetwork.get(one.network)?.letters ?? ''"
              :name="byNetwork.get(one.network)?.name ?? one.network" />
            <span class="min-w-0"
              ><RouterLink class="font-bold hover:underline" :to="desk(one.conversation_id)">{{
                one.person_name
              }}</RouterLink>
              <span class="ml-1.5 text-ink-2">{{ sayWhat('reply', one.public) }} by {{ sayMember(one.author_id) }}</span
              ><span class="block truncate" dir="auto">{{ one.body }}</span></span
            >
            <span
              ><b>{{ sayTime(one.send_at, zone) }}</b
              ><span v-if="one.overtaken" class="block text-brick"
                >They have written since: it will not go unless its author looks again.</span
              ></span
            >
            <span v-if="one.author_id === me" class="flex gap-3"
              ><button v-if="!one.overtaken" type="button" class="underline" @click="timing = one">Another time</button
              ><button type="button" class="underline" @click="takeBack(one.id)">Take it back</button></span
            >
          </li>
          <li v-if="!later.length" class="px-4 py-3 text-[0.8125rem] text-ink-2">
            Nothing. ‘Later’ beside ‘Send’ keeps an answer until its time.
          </li>
        </ul>
        <template v-if="stopped.length || data.refused.length">
          <h2 :class="head">Did not go out in the last 7 days</h2>
          <ul class="rounded-md border border-rule bg-sheet" data-test="refused">
            <li v-for="one in stopped" :key="`s${one.id}`" :class="row">
              <NetworkMark
                :letters="byNetwork.get(one.network)?.letters ?? ''"
                :name="byNetwork.get(one.network)?.name ?? one.network" />
              <span class="min-w-0"
                ><RouterLink class="font-bold hover:underline" :to="desk(one.conversation_id)">{{
                  one.person_name
                }}</RouterLink>
                <span class="ml-1.5 text-ink-2"
                  >{{ sayWhat('reply', one.public) }} by {{ sayMember(one.author_id) }}, for
                  {{ sayTime(one.send_at, zone) }}</span
                ><span class="block truncate" dir="auto">{{ one.body }}</span></span
              >
              <span class="text-brick">{{ one.problem }}</span>
            </li>
            <li v-for="one in data.refused" :key="one.id" :class="row">
              <NetworkMark
                :letters="byNetwork.get(one.network)?.letters ?? ''"
                :name="byNetwork.get(one.network)?.name ?? one.network" />
              <span class="min-w-0"
                ><RouterLink class="font-bold hover:underline" :to="desk(one.conversation_id)">{{
                  one.person_name
                }}</RouterLink>
                <span class="ml-1.5 text-ink-2"
                  >{{ sayWhat(one.what, one.public) }} by {{ sayWho(one) }}, {{ sayTime(one.queued_at, zone) }}</span
                ><span v-if="one.what === 'reply'" class="block truncate" dir="auto">{{ one.body }}</span></span
              >
              <span class="text-brick">{{ one.problem }}</span>
            </li>
          </ul>
        </template>
      </div>
      <WhenDialog
        :zone="zone"
        v-if="timing"
        title="Send it at"
        about="It is checked again then: it does not go if they write before."
        button="Send then"
        :often="listOften(zone)"
        :from="timing.send_at"
        @close="timing = null"
        @pick="move" />
    </main>
  </AppFrame>
</template>
