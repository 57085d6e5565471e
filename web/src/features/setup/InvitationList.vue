<script setup lang="ts">
/** Inviting colleagues: addresses as they are pasted, a role, and who has not come yet. */
import { computed, ref, watch } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { AccountGroup, Invitation, Roles } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import MultiPick from '@/components/ui/MultiPick.vue'
import { useAsk } from '@/composables/useAsk'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; zone: string }>()
const emit = defineEmits<{ joined: [] }>()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data: roles } = useAsk<Roles>('Members and roles', {
  key: () => ['roles', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/roles', { params: { path: path.value } })),
})
const {
  data: pending,
  ask,
  refetch,
} = useAsk<Invitation[]>('The invitations', {
  key: () => ['invitations', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/invitations', { params: { path: path.value } })),
  staleTime: 0,
})
defineExpose({ refetch })
const mine = computed(() => roles.value?.roles.find((r) => r.key === roles.value?.mine)?.permissions ?? [])
const givable = computed(() =>
  (roles.value?.roles ?? []).filter((r) => r.permissions.every((p) => mine.value.includes(p))),
)
const { data: groups } = useAsk<AccountGroup[]>('The account groups', {
  key: () => ['groups', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/groups', { params: { path: path.value } })),
})
const { directory } = useDirectory()
const emails = ref('')
/** What they are from when they come in, besides their role. */
const place = ref<{ limited: boolean; groups: number[]; teams: number[] }>({ limited: false, groups: [], teams: [] })
const role = ref('')
watch(givable, (all) => (role.value ||= all.find((r) => r.key === 'responder')?.key ?? all[0]?.key ?? ''), {
  immediate: true,
})
const said = ref('')
const { problem, attempt: tryTo } = useAttempt(refetch)
async function attempt(work: () => Promise<string>): Promise<void> {
  said.value = ''
  await tryTo(async () => (said.value = await work()))
}
async function invite(addresses: string, key: string, given: typeof place.value): Promise<string> {
  const found = await take(
    api.POST('/api/workspaces/{workspace_id}/invitations', {
      params: { path: path.value },
      body: { emails: addresses, role: key, ...given },
    }),
  )
  if (found.joined.length) emit('joined')
  return [
    found.invited.length ? `Invited: ${found.invited.join(', ')}.` : '',
    found.joined.length ? `Work here from now on, for they have an account: ${found.joined.join(', ')}.` : '',
    found.already.length ? `Here already: ${found.already.join(', ')}.` : '',
    found.wrong.length ? `Not invited, for it is no address that can be: ${found.wrong.join(', ')}.` : '',
  ]
    .filter(Boolean)
    .join(' ')
}
const send = (): Promise<void> =>
  attempt(async () => {
    const words = await invite(emails.value, role.value, place.value)
    emails.value = ''
    return words
  })
const again = (one: Invitation): Promise<void> =>
  attempt(() => invite(one.email, one.role, { limited: one.limited, groups: one.groups, teams: one.teams }))
const cancel = (one: Invitation): Promise<void> =>
  attempt(async () => {
    await take(
      api.DELETE('/api/workspaces/{workspace_id}/invitations/{invitation_id}', {
        params: { path: { ...path.value, invitation_id: one.id } },
      }),
    )
    return `The link of ${one.email} leads nowhere from now on.`
  })
async function copy(one: Invitation): Promise<void> {
  problem.value = said.value = ''
  try {
    await navigator.clipboard.writeText(one.address ?? '')
    said.value = 'Copied. Give it to nobody but them.'
  } catch {
    problem.value = 'The browser does not let Sorta copy. Mark the link and copy it.'
  }
}
const MAILED = { none: 'not mailed', waiting: 'being mailed', sent: 'mailed', refused: 'not mailed' } as const
const sayState = (one: Invitation): string =>
  one.is_over
    ? `its time is over since ${sayTime(one.expires_at, props.zone)}`
    : `${MAILED[one.mail_state]}${one.mail_problem ? ` (${one.mail_problem})` : ''}, until ${sayTime(one.expires_at, props.zone)}`
</script>

<template>
  <section class="mb-8" aria-labelledby="invitations-title" data-test="invitations">
    <h2 id="invitations-title" class="font-name text-lg font-bold">Invite colleagues</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      They get a mail with a link that leads in once, within a week; without mail, give them the link yourself.
    </p>
    <div class="rounded-md border border-rule bg-sheet p-4 text-[0.84375rem]">
      <form class="flex flex-wrap items-end gap-2" @submit.prevent="send">
        <label class="min-w-64 flex-1"
          ><span class="mb-0.5 block text-xs font-semibold text-ink-2">Mail addresses, as many as you like</span
          ><textarea
            v-model="emails"
            required
            rows="2"
            maxlength="20000"
            class="w-full rounded border border-rule bg-raised px-2 py-1"
            data-test="invite-emails" />
        </label>
        <label
          ><span class="mb-0.5 block text-xs font-semibold text-ink-2">As</span
          ><select v-model="role" class="rounded border border-rule bg-raised px-2 py-1" data-test="invite-role">
            <option v-for="r in givable" :key="r.key" :value="r.key">{{ r.name }}</option>
          </select></label
        >
        <span v-if="directory?.teams.length" class="grid"
          ><span class="mb-0.5 text-xs font-semibold text-ink-2">In teams</span
          ><MultiPick
            v-model="place.teams"
            label="In teams"
            empty="none"
            :choices="directory.teams.map((t) => ({ value: t.id, text: t.name }))"
        /></span>
        <span v-if="groups?.length" class="grid"
          ><span class="mb-0.5 text-xs font-semibold text-ink-2">In account groups</span
          ><MultiPick
            v-model="place.groups"
            label="In account groups"
            empty="none"
            :choices="groups.map((g) => ({ value: g.id, text: g.name }))"
        /></span>
        <label v-if="groups?.length" class="flex items-center gap-1.5 pb-1"
          ><input v-model="place.limited" type="checkbox" class="accent-pine" data-test="invite-limited" /> seeing only
          these groups</label
        >
        <button
          type="submit"
          class="rounded bg-pine px-3 py-1 font-semibold text-on-pine"
          :disabled="!role"
          data-test="invite">
          Invite
        </button>
      </form>
      <p v-if="problem" role="alert" class="mt-2 text-brick" data-test="invite-problem">{{ problem }}</p>
      <p v-else-if="said" role="status" class="mt-2" data-test="invite-said">{{ said }}</p>
      <LoadState :of="ask">
        <ul v-if="pending?.length" class="mt-3 border-t border-rule-soft">
          <li v-for="one in pending" :key="one.id" class="border-b border-rule-soft py-1.5" data-test="invitation">
            <p class="flex flex-wrap items-baseline gap-x-3">
              <b class="min-w-0 break-all">{{ one.email }}</b>
              <span>{{ one.role_name }}{{ one.limited ? ', limited to groups' : '' }}</span>
              <span class="text-xs" :class="one.mail_problem || one.is_over ? 'text-honey-ink' : 'text-ink-2'">{{
                sayState(one)
              }}</span>
              <span class="ml-auto flex gap-3 text-[0.8125rem]">
                <button v-if="one.address" type="button" class="underline" @click="copy(one)">Copy its link</button>
                <button type="button" class="underline" @click="again(one)">Send again</button>
                <button type="button" class="underline" @click="cancel(one)">Take back</button>
              </span>
            </p>
            <p
              v-if="one.address && (one.mail_state === 'none' || one.mail_state === 'refused')"
              class="text-xs break-all text-ink-2"
              data-test="invitation-link">
              {{ one.address }}
            </p>
          </li>
        </ul>
      </LoadState>
    </div>
  </section>
</template>
