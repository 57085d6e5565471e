<script setup lang="ts">
/** Which replies need approval, as sentences; written and changed in one form. */
import { useAsk } from '@/composables/useAsk'
import { computed, ref, watch } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { PolicyBody, PolicyTrial, Roles, StoredPolicy } from '@/api/types'
import { RouterLink } from 'vue-router'
import MultiPick from '@/components/ui/MultiPick.vue'
import { useDirectory } from '@/composables/useDirectory'
import { READS_AS } from '@/lib/filters'
import { sayList } from '@/lib/rules'
import { PRIORITIES } from '@/lib/words'

const props = defineProps<{ workspaceId: number; mayManage: boolean }>()
const { directory, offeredTags, members, accounts, byNetwork, byTag, byTeam, sayMember } = useDirectory()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, refetch } = useAsk<StoredPolicy[]>('The approval policies', {
  key: () => ['policies', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/policies', { params: { path: path.value } })),
})
defineExpose({ refetch })
type Draft = {
  id: number
  name: string
  count: number
  members: number[]
  teams: number[]
  roles: string[]
  audience: string
  tags: number[]
  accounts: number[]
  words: string
  reads_as: string[]
  priority: string
  reach: number | null
  authors: string[]
}
const draft = ref<Draft | null>(null)
const { data: known } = useAsk<Roles>('The roles', {
  key: () => ['roles', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/roles', { params: { path: path.value } })),
})
const roles = computed(() => (known.value?.roles ?? []).map((r) => ({ value: r.key, text: r.name })))
/** A role with its article: a Lead, an Owner. */
const sayRole = (key: string): string => {
  const name = roles.value.find((r) => r.value === key)?.text ?? 'role that is gone'
  return `${/^[aeiou]/i.test(name) ? 'an' : 'a'} ${name}`
}
const accountName = (id: number): string => {
  const a = accounts.value?.find((x) => x.id === id)
  return a ? `${a.name} on ${byNetwork.value.get(a.network)?.name}` : 'an account that is gone'
}

function say(p: PolicyBody): string {
  const w = p.when
  const who = w.roles?.length ? sayList(w.roles.map(sayRole), 'or') : 'anybody'
  const how = w.public == null ? 'an answer' : w.public ? 'a public answer' : 'a private message'
  const asks = [
    w.accounts?.length && `from ${sayList(w.accounts.map(accountName), 'or')}`,
    w.tags?.length &&
      `in a conversation tagged ${sayList(
        w.tags.map((t) => byTag.value.get(t) ?? '…'),
        'or',
      )}`,
    w.priority_at_least != null &&
      `that is ${PRIORITIES[w.priority_at_least]}${w.priority_at_least < 3 ? ' or more' : ''}`,
    w.reads_as?.length && `to what reads as ${sayList(w.reads_as, 'or')}`,
    w.reach_at_least != null && `to somebody with reach of ${w.reach_at_least} or more`,
    w.words?.length && `with the words ${sayList(w.words, 'or')}`,
  ].filter(Boolean)
  const by = [
    ...(p.members ?? []).map(sayMember),
    ...(p.teams ?? []).map((t) => byTeam.value.get(t) ?? '…'),
    ...(p.roles ?? []).map(sayRole),
  ]
  const isOnePerson = by.length === 1 && p.members?.length === 1
  const approvers = isOnePerson && p.count !== 2 ? by[0] : `${p.count === 2 ? 'two' : 'one'} of ${sayList(by, 'or')}`
  return `When ${who} writes ${how}${asks.length ? ` ${asks.join(', ')}` : ''}, ${approvers} must approve it.`
}
function edit(p?: StoredPolicy): void {
  const b = p?.body
  problem.value = ''
  draft.value = {
    id: p?.id ?? 0,
    name: b?.name ?? '',
    count: b?.count ?? 1,
    members: [...(b?.members ?? [])],
    teams: [...(b?.teams ?? [])],
    roles: [...(b?.roles ?? [])],
    audience: b?.when.public == null ? '' : b.when.public ? 'public' : 'private',
    tags: [...(b?.when.tags ?? [])],
    accounts: [...(b?.when.accounts ?? [])],
    words: (b?.when.words ?? []).join(', '),
    reads_as: [...(b?.when.reads_as ?? [])],
    priority: b?.when.priority_at_least == null ? '' : String(b.when.priority_at_least),
    reach: b?.when.reach_at_least ?? null,
    authors: [...(b?.when.roles ?? [])],
  }
}
const body = computed<PolicyBody | null>(() => {
  const d = draft.value
  if (!d) return null
  const when = {
    roles: d.authors,
    accounts: d.accounts,
    public: d.audience === '' ? null : d.audience === 'public',
    tags: d.tags,
    priority_at_least: d.priority === '' ? null : Number(d.priority),
    words: d.words
      .split(',')
      .map((w) => w.trim())
      .filter(Boolean),
    reads_as: d.reads_as,
    reach_at_least: d.reach === null || String(d.reach) === '' ? null : d.reach,
  }
  return { name: d.name, when, members: d.members, teams: d.teams, roles: d.roles, count: d.count } as PolicyBody
})
const { problem, isBusy, attempt } = useAttempt(refetch)
/** What was being written is done with once it is kept. */
async function keep(work: () => Promise<unknown>): Promise<void> {
  if (await attempt(work)) draft.value = null
}
const at = (id: number) => ({ params: { path: { ...path.value, policy_id: id } } })
const save = (): Promise<void> =>
  keep(async () => {
    if (!body.value || !draft.value) return
    if (draft.value.id)
      await take(
        api.PUT('/api/workspaces/{workspace_id}/policies/{policy_id}', {
          ...at(draft.value.id),
          body: { body: body.value, on: true },
        }),
      )
    else
      await take(
        api.POST('/api/workspaces/{workspace_id}/policies', {
          params: { path: path.value },
          body: { body: body.value, on: true },
        }),
      )
  })
const days = ref(28)
const trial = ref<PolicyTrial | null>(null)
watch(body, () => (trial.value = null))
async function tryOut(): Promise<void> {
  const tried = body.value
  if (!tried) return
  await attempt(async () => {
    trial.value = await take(
      api.POST('/api/workspaces/{workspace_id}/policies/try', {
        params: { path: path.value },
        body: { body: tried, days: days.value },
      }),
    )
  })
}
const { data: asking, refetch: refetchAsking } = useAsk('When the next is asked', {
  key: () => ['asking', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/approvals/asking', { params: { path: path.value } })),
})
async function setShare(event: Event): Promise<void> {
  const share = Number((event.target as HTMLInputElement).value)
  await keep(() =>
    take(api.PUT('/api/workspaces/{workspace_id}/approvals/asking', { params: { path: path.value }, body: { share } })),
  )
  await refetchAsking()
}
const toggle = (p: StoredPolicy): Promise<void> =>
  keep(() =>
    take(
      api.PUT('/api/workspaces/{workspace_id}/policies/{policy_id}', {
        ...at(p.id),
        body: { body: p.body, on: !p.switched_on },
      }),
    ),
  )
const remove = (p: StoredPolicy): Promise<void> =>
  keep(() => take(api.DELETE('/api/workspaces/{workspace_id}/policies/{policy_id}', at(p.id))))
const field = 'rounded border border-rule bg-raised px-1.5 py-0.5'
</script>

<template>
  <section class="mb-8" aria-labelledby="policies-title" data-test="policies">
    <h2 id="policies-title" class="font-name text-lg font-bold">Approval</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      What needs approval cannot go out without it. All that match must be met; nobody approves their own; all replies
      of a Trainee need one.
    </p>
    <ul class="rounded-md border border-rule bg-sheet">
      <li
        v-for="p in data ?? []"
        :key="p.id"
        class="flex flex-wrap items-baseline gap-3 border-b border-rule-soft px-4 py-2"
        :class="p.switched_on ? '' : 'text-ink-2'"
        data-test="policy">
        <span class="min-w-64 flex-1"
          ><b class="block text-xs">{{ p.body.name }}</b
          >{{ say(p.body)
          }}<b v-for="w in p.warnings" :key="w" class="block text-xs text-honey" data-test="policy-warning">{{
            w
          }}</b></span
        >
        <span v-if="mayManage" class="flex gap-3 text-[0.8125rem]"
          ><button type="button" class="underline" @click="edit(p)">Change</button
          ><button type="button" class="underline" @click="toggle(p)">
            {{ p.switched_on ? 'Switch off' : 'Switch on' }}</button
          ><button type="button" class="underline" @click="remove(p)">Remove</button></span
        >
      </li>
      <li v-if="data && !data.length" class="px-4 py-3 text-ink-2">No policies yet.</li>
      <li v-if="mayManage" class="px-4 py-2">
        <button
          v-if="!draft"
          type="button"
          class="rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold"
          data-test="new-policy"
          @click="edit()">
          New policy
        </button>
        <form v-else class="grid grid-cols-1 gap-2 text-[0.8125rem]" @submit.prevent="save">
          <label
            >Name <input v-model="draft.name" required maxlength="80" :class="field" data-test="policy-name"
          /></label>
          <p v-if="body" class="text-[0.9375rem]" data-test="policy-sentence">{{ say(body) }}</p>
          <p class="flex flex-wrap items-center gap-2">
            <b class="w-16">When</b
            ><MultiPick v-model="draft.authors" label="Authors" empty="anybody" :choices="roles" /> writes
            <select v-model="draft.audience" :class="field" aria-label="Audience">
              <option value="">any answer</option>
              <option value="public">a public answer</option>
              <option value="private">a private message</option>
            </select>
            tagged
            <MultiPick
              v-model="draft.tags"
              label="Tags"
              empty="anything"
              :choices="offeredTags.map((t) => ({ value: t.id, text: t.name }))" />
            from
            <MultiPick
              v-model="draft.accounts"
              label="Accounts"
              empty="any account"
              :choices="(accounts ?? []).map((a) => ({ value: a.id, text: accountName(a.id) }))" />
          </p>
          <p class="flex flex-wrap items-center gap-2">
            <span class="w-16" />priority at least
            <select v-model="draft.priority" :class="field" aria-label="Priority at least">
              <option value="">any</option>
              <option v-for="(word, n) in PRIORITIES" :key="n" :value="String(n)">{{ word }}</option>
            </select>
            to what reads as
            <MultiPick
              v-model="draft.reads_as"
              label="Reads as"
              empty="anything"
              :choices="Object.keys(READS_AS).map((value) => ({ value, text: value }))" />
            reach at least
            <input
              v-model.number="draft.reach"
              type="number"
              min="0"
              max="100"
              :class="[field, 'w-16']"
              aria-label="Reach at least" />
            with the words
            <input
              v-model="draft.words"
              :class="[field, 'w-56']"
              placeholder="refund*, for free"
              aria-label="Words in the reply"
              data-test="policy-words" />
          </p>
          <p class="flex flex-wrap items-center gap-2">
            <b class="w-16">Then</b
            ><select v-model.number="draft.count" :class="field" aria-label="How many">
              <option :value="1">one</option>
              <option :value="2">two</option>
            </select>
            of
            <MultiPick
              v-model="draft.members"
              label="Members who approve"
              empty="no member"
              :choices="(members ?? []).map((m) => ({ value: m.id, text: m.name }))" />
            <MultiPick
              v-model="draft.teams"
              label="Teams who approve"
              empty="no team"
              :choices="(directory?.teams ?? []).map((t) => ({ value: t.id, text: t.name }))" />
            <MultiPick v-model="draft.roles" label="Roles who approve" empty="no role" :choices="roles" />
          </p>
          <p v-if="problem" role="alert" class="text-brick">{{ problem }}</p>
          <p class="flex gap-2">
            <button type="submit" class="rounded bg-pine px-3 py-1 font-bold text-on-pine" data-test="save-policy">
              Save</button
            ><button
              type="button"
              class="rounded border border-rule bg-raised px-3 py-1 font-semibold hover:bg-fold disabled:opacity-50"
              :disabled="isBusy"
              data-test="try-policy"
              @click="tryOut">
              Try it on the last</button
            ><label class="flex items-center gap-1.5"
              ><input v-model.number="days" type="number" min="1" max="90" :class="[field, 'w-16']" aria-label="Days" />
              days</label
            ><button type="button" class="rounded px-3 py-1 font-semibold hover:bg-fold" @click="draft = null">
              Cancel
            </button>
          </p>
          <div v-if="trial" class="border-l-[3px] border-sky pl-3" role="status" data-test="policy-trial">
            <p>
              <b>{{ trial.held }} of {{ trial.replies }}</b> answers of the last {{ trial.days }} days would have
              waited<template v-if="trial.authors.length"
                >: {{ trial.authors.map((a) => `${sayMember(a.member)} ${a.held}`).join(', ') }}</template
              >.
            </p>
            <p v-for="e in trial.examples" :key="e.id" class="truncate" dir="auto">
              <RouterLink
                class="underline"
                :to="{
                  name: 'desk',
                  params: { workspace: String(workspaceId), conversation: String(e.conversation_id) },
                }"
                >{{ e.person_name }}</RouterLink>{{ ' '
              }}<span class="text-ink-2"
                >{{ sayMember(e.member_id) }}, {{ e.public ? 'in public' : 'in private' }}, on
                {{ e.members.map(sayMember).join(' or ')
                }}<template v-if="e.words.length">, {{ e.words.map((w) => `“${w}”`).join(', ') }}</template
                >:</span
              >
              {{ e.body }}
            </p>
          </div>
        </form>
      </li>
    </ul>
    <p v-if="asking" class="mt-2 text-[0.8125rem]">
      <label
        >One who may approve is asked first; the next when they are away or have not answered after
        <input
          :value="asking.share"
          type="number"
          min="10"
          max="90"
          :disabled="!mayManage"
          :class="[field, 'w-16']"
          data-test="share"
          @change="setShare" />
        percent of the time left.</label
      >
    </p>
  </section>
</template>
