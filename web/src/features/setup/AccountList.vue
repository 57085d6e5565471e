<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { Account } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useDirectory } from '@/composables/useDirectory'
import ConnectDialog from '@/features/setup/ConnectDialog.vue'
import EarlierDialog from '@/features/setup/EarlierDialog.vue'
import SignOffDialog from './SignOffDialog.vue'
import NewSecret from '@/features/setup/NewSecret.vue'
import { sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; mayManage: boolean; zone: string }>()
const { accounts, networks, byNetwork, refetchAccounts } = useDirectory()
const isConnecting = ref(false)
/** The network that is asked again. */
const again = ref<string | undefined>()
const leaving = ref<Account | null>(null)
const reading = ref<Account | null>(null)
const { problem: refusal, isBusy, attempt } = useAttempt(refetchAccounts)
async function disconnect(): Promise<void> {
  const account = leaving.value
  if (!account) return
  const done = await attempt(() =>
    take(
      api.POST('/api/workspaces/{workspace_id}/accounts/{account_id}/disconnect', {
        params: { path: { workspace_id: props.workspaceId, account_id: account.id } },
      }),
    ),
  )
  if (done) leaving.value = null
}
function connectAgain(account: Account): void {
  again.value = account.network
  isConnecting.value = true
}
async function connected(): Promise<void> {
  isConnecting.value = false
  await refetchAccounts()
}
const renewing = ref<Account | null>(null)
const token = ref('')
const signing = ref<Account | null>(null)
const signingOff = ref<Account | null>(null)
const signingOf = computed(
  () =>
    signing.value && {
      kind: 'account' as const,
      id: signing.value.id,
      name: `${signing.value.name} on ${signing.value.network_name}`,
    },
)
const { problem, attempt: tryTo } = useAttempt(refetchAccounts)

type Act = 'again' | 'earlier' | 'sign' | 'token' | 'secret' | 'disconnect'
const listActs = (a: Account): { value: Act; text: string }[] => [
  ...(a.asks ? [{ value: 'again' as const, text: 'Connect again …' }] : []),
  ...(a.disconnected_at ? [] : [{ value: 'earlier' as const, text: 'Earlier messages …' }]),
  { value: 'sign', text: 'Sign-off …' },
  { value: 'token', text: 'New token …' },
  { value: 'secret', text: 'New signing secret …' },
  ...(a.disconnected_at ? [] : [{ value: 'disconnect' as const, text: 'Disconnect …' }]),
]
function act(account: Account, what: Act): void {
  if (what === 'again') connectAgain(account)
  else if (what === 'earlier') reading.value = account
  else if (what === 'sign') signingOff.value = account
  else if (what === 'token') begin(account)
  else if (what === 'secret') signing.value = account
  else leaving.value = account
}
function begin(account: Account): void {
  renewing.value = account
  token.value = ''
  problem.value = ''
}
async function renew(): Promise<void> {
  const account = renewing.value
  if (!account) return
  await tryTo(async () => {
    await take(
      api.PUT('/api/workspaces/{workspace_id}/accounts/{account_id}/token', {
        params: { path: { workspace_id: props.workspaceId, account_id: account.id } },
        body: { token: token.value },
      }),
    )
    renewing.value = null
  })
}
function list(account: Account): string {
  const n = byNetwork.value.get(account.network)
  if (!n) return ''
  const can = [
    n.public_reply && 'public replies',
    n.private_reply && 'private messages',
    n.private_reply_to_public && 'private reply to a comment',
    n.like && 'like',
    n.hide && 'hide',
    n.delete && 'delete',
    n.delete_own_only && 'delete our own',
    n.repost && 'repost',
    n.block && 'block',
    n.attachments && 'files with an answer',
    n.search && 'search',
  ]
  const rules = [
    `${n.length_limit} characters`,
    n.handle_in_front && 'handle in front',
    n.reply_window_hours && `within ${n.reply_window_hours} hours of their last message`,
  ]
  return `${can.filter(Boolean).join(', ')}; ${rules.filter(Boolean).join(', ')}`
}
</script>

<template>
  <section class="mb-8" aria-labelledby="accounts-title">
    <div class="mb-2 flex items-baseline justify-between gap-3">
      <h2 id="accounts-title" class="font-name text-lg font-bold">Accounts</h2>
      <button
        v-if="mayManage"
        type="button"
        class="rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold whitespace-nowrap hover:bg-fold"
        data-test="connect-account"
        @click="((again = undefined), (isConnecting = true))">
        Connect an account
      </button>
    </div>
    <p
      v-if="accounts && !accounts.length"
      class="rounded-md border border-rule bg-sheet px-4 py-6 text-center text-ink-2">
      No account is connected yet: nothing can come in.
    </p>
    <ul v-else class="rounded-md border border-rule bg-sheet" data-test="accounts">
      <li
        v-for="a in accounts ?? []"
        :key="a.id"
        class="flex items-center gap-3 border-b border-rule-soft px-4 py-3 last:border-0">
        <NetworkMark :letters="a.letters" :name="a.network_name" />
        <div class="min-w-0">
          <b>{{ a.name }}</b> <span class="text-ink-2">@{{ a.handle }} on {{ a.network_name }}</span>
          <p class="text-[0.8125rem] text-ink-2">{{ list(a) }}</p>
          <p v-if="a.sign_off" class="text-[0.8125rem] text-ink-2">Answers close with “{{ a.sign_off }}”</p>
          <p v-if="a.disconnected_at" class="text-[0.8125rem] font-semibold text-ink-2">
            Disconnected {{ sayTime(a.disconnected_at, zone) }}. What was said stays; nothing comes in or goes out.
          </p>
          <p v-else-if="a.paused_reason" class="text-[0.8125rem] font-semibold text-brick">
            Replies wait. {{ a.paused_reason }}
          </p>
          <p v-else-if="a.silent_since" class="text-[0.8125rem] font-semibold text-honey-ink">
            {{ a.network_name }} has not answered since {{ sayTime(a.silent_since, zone) }}. It is asked again by
            itself; what waits goes out when it answers.
          </p>
          <template v-if="!a.disconnected_at">
            <p v-for="one in a.lacking" :key="one.words" class="text-[0.8125rem] font-semibold text-honey-ink">
              Something is missing. {{ one.words }}
              <a :href="one.address" class="underline" target="_blank" rel="noopener noreferrer"
                >To the network’s page</a
              >
            </p>
            <p v-if="a.token_ends_at && !a.renews" class="text-[0.8125rem] text-ink-2">
              Its network’s leave ends {{ sayTime(a.token_ends_at, zone) }}: connect it again before.
            </p>
          </template>
        </div>
        <span
          v-if="!a.paused_reason && !a.silent_since && !a.disconnected_at"
          class="ml-auto text-[0.8125rem] font-semibold whitespace-nowrap text-pine"
          >Connected</span
        >
        <PickMenu
          v-if="mayManage"
          :label="`More of ${a.name} on ${a.network_name}`"
          align="right"
          :class="a.paused_reason || a.silent_since || a.disconnected_at ? 'ml-auto' : ''"
          :choices="listActs(a)"
          @pick="(what) => act(a, what)"
          >Change …</PickMenu
        >
      </li>
    </ul>
    <AppDialog
      :open="leaving !== null"
      :title="`Disconnect ${leaving?.name ?? ''} on ${leaving?.network_name ?? ''}`"
      @close="leaving = null">
      <form data-test="disconnect" @submit.prevent="disconnect">
        <p class="mb-2">
          Nothing comes in or goes out by it from then on. What was said stays and can be found; answers that wait come
          back to their authors. It can be connected again.
        </p>
        <p v-if="refusal" role="alert" class="mb-2 text-brick">{{ refusal }}</p>
        <div class="flex justify-end gap-2">
          <UiButton @click="leaving = null">Cancel</UiButton>
          <UiButton kind="danger" type="submit" :disabled="isBusy">Disconnect</UiButton>
        </div>
      </form>
    </AppDialog>
    <EarlierDialog v-if="reading" :workspace-id="workspaceId" :account="reading" :zone="zone" @close="reading = null" />
    <ConnectDialog
      v-if="isConnecting"
      :network="again"
      :workspace-id="workspaceId"
      :networks="networks ?? []"
      @close="isConnecting = false"
      @connected="connected" />
    <AppDialog
      :open="renewing !== null"
      :title="`New access token for ${renewing?.name ?? ''} on ${renewing?.network_name ?? ''}`"
      @close="renewing = null">
      <form @submit.prevent="renew">
        <label class="block text-xs font-semibold text-ink-2" for="token"
          >Access token, from the network's page for connected programs</label
        >
        <input
          id="token"
          v-model="token"
          required
          autocomplete="off"
          class="mt-1 w-full rounded border border-rule bg-raised px-3 py-2" />
        <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
        <p class="mt-2 text-xs text-ink-2">What waits for this account goes out within a few seconds.</p>
        <div class="mt-3 flex justify-end gap-2">
          <UiButton @click="renewing = null">Cancel</UiButton>
          <UiButton kind="main" type="submit">Use it</UiButton>
        </div>
      </form>
    </AppDialog>
    <SignOffDialog
      v-if="signingOff"
      :workspace-id="workspaceId"
      :account="signingOff"
      @close="signingOff = null"
      @saved="((signingOff = null), refetchAccounts())" />
    <NewSecret :workspace-id="workspaceId" :zone="zone" :of="signingOf" @close="signing = null" />
  </section>
</template>
