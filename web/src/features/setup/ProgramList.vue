<script setup lang="ts">
/** Programs: the tokens by which they ask, and where they are told what happens. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { ApiToken, Hook, Permission, Roles } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import MultiPick from '@/components/ui/MultiPick.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { sayTime } from '@/lib/words'
import ToldDialog from './ToldDialog.vue'

const props = defineProps<{ workspaceId: number; zone: string }>()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const params = computed(() => ({ params: { path: path.value } }))
const {
  data: tokens,
  ask,
  refetch: refetchTokens,
} = useAsk<ApiToken[]>('The tokens of programs', {
  key: () => ['tokens', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/programs/tokens', params.value)),
})
const { data: hooks, refetch: refetchHooks } = useAsk<Hook[]>('Where programs are told', {
  key: () => ['hooks', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/programs/hooks', params.value)),
})
const { data: roles } = useAsk<Roles>('Members and roles', {
  key: () => ['roles', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/roles', params.value)),
})
const { problem, isBusy, attempt } = useAttempt(() => Promise.all([refetchTokens(), refetchHooks()]))
/** What is shown this once. */
const shown = ref<{ what: string; secret: string } | null>(null)
const live = computed(() => tokens.value?.filter((t) => !t.is_over) ?? [])

type TokenDraft = { name: string; permissions: Permission[]; days: number }
const token = ref<TokenDraft | null>(null)
/** No program manages members or accounts; all see. */
const givable = computed(() =>
  (roles.value?.permissions ?? [])
    .filter((p) => !['see', 'manage_members', 'manage_accounts'].includes(p.key))
    .map((p) => ({ value: p.key, text: p.words })),
)
const sayPermissions = (held: Permission[]): string =>
  held.map((one) => roles.value?.permissions.find((p) => p.key === one)?.words ?? one).join(', ')
const makeToken = (draft: TokenDraft): Promise<boolean> =>
  attempt(async () => {
    const made = await take(
      api.POST('/api/workspaces/{workspace_id}/programs/tokens', { ...params.value, body: draft }),
    )
    shown.value = { what: `The token ${draft.name}`, secret: made.token }
    token.value = null
  })
const revoke = (one: ApiToken): Promise<boolean> =>
  attempt(() =>
    take(
      api.DELETE('/api/workspaces/{workspace_id}/programs/tokens/{token_id}', {
        params: { path: { ...path.value, token_id: one.id } },
      }),
    ),
  )

const KINDS = ['arrivals', 'moves', 'decisions', 'answers'] as const
type HookDraft = { id: number | null; name: string; url: string; kinds: Hook['kinds'] }
const hook = ref<HookDraft | null>(null)
const told = ref<Hook | null>(null)
const saveHook = (draft: HookDraft): Promise<boolean> =>
  attempt(async () => {
    const body = { name: draft.name, url: draft.url, kinds: draft.kinds }
    if (draft.id === null) {
      const made = await take(api.POST('/api/workspaces/{workspace_id}/programs/hooks', { ...params.value, body }))
      shown.value = { what: `What ${draft.name} is signed with`, secret: made.secret }
    } else
      await take(
        api.PUT('/api/workspaces/{workspace_id}/programs/hooks/{hook_id}', {
          params: { path: { ...path.value, hook_id: draft.id } },
          body,
        }),
      )
    hook.value = null
  })
const change = (one: Hook): Promise<boolean> =>
  attempt(async () => {
    const made = await take(
      api.POST('/api/workspaces/{workspace_id}/programs/hooks/{hook_id}/secret', {
        params: { path: { ...path.value, hook_id: one.id } },
      }),
    )
    shown.value = { what: `What ${one.name} is signed with`, secret: made.secret }
  })
const remove = (one: Hook): Promise<boolean> =>
  attempt(() =>
    take(
      api.DELETE('/api/workspaces/{workspace_id}/programs/hooks/{hook_id}', {
        params: { path: { ...path.value, hook_id: one.id } },
      }),
    ),
  )
const sayState = (one: Hook): string =>
  [
    one.last_sent_at ? `last told ${sayTime(one.last_sent_at, props.zone)}` : 'told nothing yet',
    one.waiting ? `${one.waiting} waiting` : '',
    one.failed ? `${one.failed} given up` : '',
  ]
    .filter(Boolean)
    .join(' · ')
const field = 'rounded border border-rule bg-raised px-2 py-1'
const small = 'rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold'
</script>

<template>
  <section id="programs" class="mb-8 scroll-mt-4" aria-labelledby="programs-title" data-test="programs">
    <h2 id="programs-title" class="font-name text-lg font-bold">Programs</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      A program asks by a token, in the name of who made it and never with more than they may; and is told what happens
      at an address of its own, signed.
    </p>
    <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick" data-test="program-problem">
      {{ problem }}
    </p>
    <p
      v-if="shown"
      role="status"
      class="mb-2 rounded-md border border-pine bg-pine-wash px-4 py-2 text-[0.8125rem]"
      data-test="shown-once">
      {{ shown.what }}, shown this once: <code class="font-semibold break-all select-all">{{ shown.secret }}</code>
      <button type="button" class="ml-2 underline" @click="shown = null">I have it</button>
    </p>
    <div class="mb-2 rounded-md border border-rule bg-sheet px-4 py-2 text-[0.84375rem]">
      <h3 class="font-semibold">Tokens</h3>
      <LoadState :of="ask" :lines="2">
        <p v-if="!live.length && !token" class="py-1 text-ink-2">No program asks.</p>
        <div
          v-for="one in live"
          :key="one.id"
          class="flex flex-wrap items-baseline gap-x-3 border-b border-rule-soft py-1.5 last:border-0"
          data-test="token">
          <b>{{ one.name }}</b>
          <span class="min-w-0 flex-1 basis-72"
            >may {{ sayPermissions(one.permissions) }}
            <span class="block text-xs text-ink-2"
              >… {{ one.ending }}, by {{ one.made_by_name }}, until {{ sayTime(one.expires_at, zone) }},
              {{ one.used_at ? `last used ${sayTime(one.used_at, zone)}` : 'not used yet' }}</span
            ></span
          >
          <button
            type="button"
            class="text-[0.8125rem] underline"
            :aria-label="`Take back ${one.name}`"
            @click="revoke(one)">
            Take back
          </button>
        </div>
        <form
          v-if="token"
          class="flex flex-wrap items-end gap-2 py-2"
          data-test="token-form"
          @submit.prevent="makeToken(token)">
          <label class="grid text-xs font-semibold text-ink-2"
            >Which program<input
              v-model="token.name"
              required
              maxlength="60"
              class="text-[0.84375rem] font-normal text-ink"
              :class="field" /></label
          ><span class="grid text-xs font-semibold text-ink-2"
            >May see, and<MultiPick
              v-model="token.permissions"
              label="May"
              empty="nothing else"
              :choices="givable" /></span
          ><label class="grid text-xs font-semibold text-ink-2"
            >For<select v-model.number="token.days" class="text-[0.84375rem] font-normal text-ink" :class="field">
              <option v-for="d in [7, 30, 90, 365]" :key="d" :value="d">{{ d }} days</option>
            </select></label
          ><button type="submit" class="rounded bg-pine px-3 py-1 font-semibold text-on-pine" :disabled="isBusy">
            Make it</button
          ><button type="button" class="px-2 py-1 underline" @click="token = null">Cancel</button>
        </form>
      </LoadState>
    </div>
    <div class="rounded-md border border-rule bg-sheet px-4 py-2 text-[0.84375rem]">
      <h3 class="font-semibold">Told what happens</h3>
      <p v-if="!hooks?.length && !hook" class="py-1 text-ink-2">No program is told.</p>
      <div
        v-for="one in hooks"
        :key="one.id"
        class="flex flex-wrap items-baseline gap-x-3 border-b border-rule-soft py-1.5 last:border-0"
        data-test="hook">
        <b>{{ one.name }}</b>
        <span class="min-w-0 flex-1 basis-72"
          ><span class="break-all">{{ one.url }}</span
          >, told of {{ one.kinds.join(', ') }}
          <span v-if="one.off_reason" class="block text-xs font-semibold text-brick"
            >It is told nothing more. {{ one.off_reason }} Save it to switch it on again.</span
          ><span v-else-if="one.failing_since" class="block text-xs font-semibold text-honey-ink"
            >It has taken nothing since {{ sayTime(one.failing_since, zone) }}.</span
          ><span class="block text-xs text-ink-2">{{ sayState(one) }}</span></span
        >
        <span class="flex flex-wrap gap-3 text-[0.8125rem]"
          ><button type="button" class="underline" :aria-label="`What ${one.name} was told`" @click="told = one">
            Log</button
          ><button
            type="button"
            class="underline"
            :aria-label="`Change ${one.name}`"
            @click="hook = { id: one.id, name: one.name, url: one.url, kinds: [...one.kinds] }">
            Change</button
          ><button type="button" class="underline" :aria-label="`New secret for ${one.name}`" @click="change(one)">
            New secret</button
          ><button type="button" class="underline" :aria-label="`Remove ${one.name}`" @click="remove(one)">
            Remove
          </button></span
        >
      </div>
      <form
        v-if="hook"
        class="flex flex-wrap items-end gap-2 py-2"
        data-test="hook-form"
        @submit.prevent="saveHook(hook)">
        <label class="grid text-xs font-semibold text-ink-2"
          >Which program<input
            v-model="hook.name"
            required
            maxlength="60"
            class="text-[0.84375rem] font-normal text-ink"
            :class="field" /></label
        ><label class="grid min-w-64 flex-1 text-xs font-semibold text-ink-2"
          >Its address<input
            v-model="hook.url"
            required
            type="url"
            maxlength="500"
            class="text-[0.84375rem] font-normal text-ink"
            :class="field" /></label
        ><span class="grid text-xs font-semibold text-ink-2"
          >Told of<MultiPick
            v-model="hook.kinds"
            label="Told of"
            :choices="KINDS.map((value) => ({ value, text: value }))" /></span
        ><button type="submit" class="rounded bg-pine px-3 py-1 font-semibold text-on-pine" :disabled="isBusy">
          Save</button
        ><button type="button" class="px-2 py-1 underline" @click="hook = null">Cancel</button>
      </form>
    </div>
    <p class="mt-2 flex gap-2">
      <button
        v-if="!token"
        type="button"
        :class="small"
        data-test="new-token"
        @click="token = { name: '', permissions: [], days: 90 }">
        New token</button
      ><button
        v-if="!hook"
        type="button"
        :class="small"
        data-test="new-hook"
        @click="hook = { id: null, name: '', url: '', kinds: ['arrivals'] }">
        Tell a program
      </button>
    </p>
    <ToldDialog v-if="told" :workspace-id="workspaceId" :hook="told" :zone="zone" @close="told = null" />
  </section>
</template>
