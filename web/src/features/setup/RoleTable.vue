<script setup lang="ts">
/** Members by permissions: each role a row with what it holds, below it those who have it; roles are changed in place. */
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { AccountGroup, Member, Permission, RoleOne, Roles } from '@/api/types'
import Avatar from '@/components/ui/Avatar.vue'
import { useDirectory } from '@/composables/useDirectory'
import { sayLanguage } from '@/lib/filters'
import { sayDay, sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'
import LetGoDialog from './LetGoDialog.vue'
import SightDialog from './SightDialog.vue'

const props = defineProps<{ workspaceId: number; mayManage: boolean }>()
const { members, everybody, refetchMembers, directory } = useDirectory()
const session = useSession()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, refetch } = useAsk<Roles>('Members and roles', {
  key: () => ['roles', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/roles', { params: { path: path.value } })),
})
const { data: groups, refetch: refetchGroups } = useAsk<AccountGroup[]>('The account groups', {
  key: () => ['groups', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/groups', { params: { path: path.value } })),
})
defineExpose({ refetch })

/** The columns' headings: short, the whole words are their titles. */
const SHORT: Record<Permission, string> = {
  see: 'See',
  sort: 'Sort',
  reply_publicly: 'Reply publicly',
  reply_privately: 'Reply privately',
  reply_without_approval: 'Without approval',
  approve: 'Approve',
  moderate: 'Moderate',
  manage_replies: 'Saved replies',
  manage_tags: 'Tags',
  export: 'Export',
  manage_accounts: 'Accounts',
  manage_rules: 'Rules',
  manage_members: 'Members',
  hold_outgoing: 'Hold outgoing',
  draw_prizes: 'Draw prizes',
  ask_outside: 'Ask outside',
  see_reports: 'See reports',
}
const draft = ref<{ key: string | null; name: string; permissions: Permission[] } | null>(null)
const { problem, attempt } = useAttempt(refetch)
const mine = computed(() => data.value?.roles.find((r) => r.key === data.value?.mine)?.permissions ?? [])
/** Nobody changes or hands out what they do not hold themselves. */
const isWithin = (role: RoleOne): boolean => role.permissions.every((p) => mine.value.includes(p))
const leaving = ref<Member | null>(null)
const limiting = ref<Member | null>(null)
const isLimited = (id: number): boolean => data.value?.about.some((a) => a.member_id === id && a.limited) ?? false
const said = ref('')
const former = computed(() => everybody.value?.filter((m) => m.left_at) ?? [])
const aboutOf = (id: number): string => {
  const about = data.value?.about.find((a) => a.member_id === id)
  if (!about) return ''
  const seen = about.seen_at
    ? `last here ${sayTime(about.seen_at, session.workspace?.time_zone ?? 'UTC')}`
    : 'not seen lately'
  const languages = about.languages.map(sayLanguage).join(', ')
  const own = (groups.value ?? []).filter((g) => g.members.includes(id)).map((g) => g.name)
  const sees = about.limited ? [`sees only ${own.join(', ') || 'no group'}`] : own
  return [about.email, seen, ...about.teams, ...sees, ...(languages ? [languages] : [])].join(' · ')
}
async function gone(words: string): Promise<void> {
  leaving.value = limiting.value = null
  said.value = words
  await Promise.all([refetch(), refetchMembers(), refetchGroups()])
}
const nameOf = (id: number): string => members.value?.find((m) => m.id === id)?.name ?? ''
const initialsOf = (id: number): string => members.value?.find((m) => m.id === id)?.initials ?? ''

function begin(role: RoleOne | null): void {
  problem.value = ''
  draft.value = role
    ? { key: role.key, name: role.name, permissions: [...role.permissions] }
    : { key: null, name: '', permissions: ['see'] }
}
function flip(permission: Permission): void {
  const d = draft.value
  if (d)
    d.permissions = d.permissions.includes(permission)
      ? d.permissions.filter((p) => p !== permission)
      : [...d.permissions, permission]
}
async function save(): Promise<void> {
  const d = draft.value
  if (!d) return
  const body = { name: d.name, permissions: d.permissions }
  const done = await attempt(() =>
    d.key === null
      ? take(api.POST('/api/workspaces/{workspace_id}/roles', { params: { path: path.value }, body }))
      : take(
          api.PUT('/api/workspaces/{workspace_id}/roles/{key}', {
            params: { path: { ...path.value, key: d.key } },
            body,
          }),
        ),
  )
  if (done) draft.value = null
}
const remove = (role: RoleOne): Promise<boolean> =>
  attempt(() =>
    take(
      api.DELETE('/api/workspaces/{workspace_id}/roles/{key}', { params: { path: { ...path.value, key: role.key } } }),
    ),
  )
async function give(member: number, event: Event): Promise<void> {
  const select = event.target as HTMLSelectElement
  const before = data.value?.roles.find((r) => r.members.includes(member))?.key ?? ''
  if (
    !(await attempt(() =>
      take(
        api.PUT('/api/workspaces/{workspace_id}/members/{member_id}/role', {
          params: { path: { ...path.value, member_id: member } },
          body: { role: select.value },
        }),
      ),
    ))
  )
    select.value = before
}
</script>

<template>
  <section id="roles" class="mb-8 scroll-mt-4" aria-labelledby="roles-title" data-test="roles">
    <h2 id="roles-title" class="font-name text-lg font-bold">Members and roles</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      A role is a named set of permissions. Nobody hands out more than they hold themselves, and a workspace keeps at
      least one Owner.
    </p>
    <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick">{{ problem }}</p>
    <form class="overflow-x-auto rounded-md border border-rule bg-sheet" @submit.prevent="save">
      <table v-if="data" class="w-full border-collapse text-[0.8125rem]">
        <thead>
          <tr class="border-b border-rule">
            <th scope="col" class="px-4 py-2 text-left align-bottom text-xs font-semibold text-ink-2">Role</th>
            <th
              v-for="p in data.permissions"
              :key="p.key"
              scope="col"
              class="h-28 w-9 px-0 pb-2 align-bottom text-xs font-semibold"
              :title="`May ${p.words}`">
              <span class="inline-block rotate-180 whitespace-nowrap [writing-mode:vertical-rl]">{{
                SHORT[p.key]
              }}</span>
            </th>
          </tr>
        </thead>
        <tbody v-for="role in data.roles" :key="role.key" class="border-b border-rule last:border-0" data-test="role">
          <tr class="bg-paper">
            <th scope="row" class="px-4 py-1.5 text-left font-bold">
              <span v-if="draft?.key !== role.key" class="flex items-baseline gap-2"
                >{{ role.name }}
                <template v-if="mayManage && isWithin(role) && role.key !== 'owner' && !draft"
                  ><button
                    type="button"
                    class="text-xs font-semibold text-pine underline"
                    :aria-label="`Change ${role.name}`"
                    @click="begin(role)">
                    Change</button
                  ><button
                    v-if="role.is_own && !role.members.length"
                    type="button"
                    class="text-xs font-semibold underline"
                    :aria-label="`Remove ${role.name}`"
                    @click="remove(role)">
                    Remove
                  </button></template
                >
              </span>
              <span v-else-if="draft" class="flex items-center gap-2"
                ><input
                  v-model="draft.name"
                  required
                  maxlength="40"
                  class="w-32 rounded border border-rule bg-raised px-1.5 py-0.5"
                  aria-label="Name of the role" /><button
                  type="submit"
                  class="rounded bg-pine px-2 py-0.5 text-xs font-bold text-on-pine">
                  Save</button
                ><button type="button" class="text-xs underline" @click="draft = null">Cancel</button></span
              >
            </th>
            <td v-for="p in data.permissions" :key="p.key" class="text-center">
              <input
                v-if="draft && draft.key === role.key"
                type="checkbox"
                class="accent-pine"
                :checked="draft.permissions.includes(p.key)"
                :disabled="p.key === 'see' || !mine.includes(p.key)"
                :aria-label="SHORT[p.key]"
                @change="flip(p.key)" />
              <b v-else-if="role.permissions.includes(p.key)" class="text-pine" aria-label="may">✓</b
              ><span v-else class="text-rule" aria-label="may not">·</span>
            </td>
          </tr>
          <tr v-for="m in role.members" :key="m" :data-member="m">
            <td class="px-4 py-1">
              <span class="flex items-center gap-2"
                ><Avatar :initials="initialsOf(m)" /><span class="min-w-0 truncate">{{ nameOf(m) }}</span>
                <select
                  v-if="mayManage && isWithin(role)"
                  class="ml-auto rounded border border-rule bg-raised px-1 py-0.5 text-xs"
                  :value="role.key"
                  :aria-label="`Role of ${nameOf(m)}`"
                  @change="give(m, $event)">
                  <option v-for="r in data.roles" :key="r.key" :value="r.key" :disabled="!isWithin(r)">
                    {{ r.name }}
                  </option>
                </select>
                <button
                  v-if="mayManage && isWithin(role) && role.key !== 'owner' && m !== session.session?.member_id"
                  type="button"
                  class="shrink-0 text-xs font-semibold whitespace-nowrap underline"
                  :aria-label="`What ${nameOf(m)} sees`"
                  @click="limiting = members?.find((one) => one.id === m) ?? null">
                  Sees
                </button>
                <button
                  v-if="mayManage && isWithin(role) && m !== session.session?.member_id"
                  type="button"
                  class="shrink-0 text-xs font-semibold whitespace-nowrap underline"
                  :aria-label="`Let ${nameOf(m)} go`"
                  @click="leaving = members?.find((one) => one.id === m) ?? null">
                  Let go
                </button></span
              ><span v-if="aboutOf(m)" class="block min-w-64 pb-1 pl-[30px] text-xs text-ink-2">{{ aboutOf(m) }}</span>
            </td>
            <td v-for="p in data.permissions" :key="p.key" class="text-center text-xs text-ink-2">
              <span v-if="role.permissions.includes(p.key)" aria-label="may">✓</span>
            </td>
          </tr>
        </tbody>
        <tbody v-if="draft && draft.key === null">
          <tr class="bg-paper">
            <th scope="row" class="px-4 py-1.5 text-left">
              <span class="flex items-center gap-2"
                ><input
                  v-model="draft.name"
                  required
                  maxlength="40"
                  class="w-32 rounded border border-rule bg-raised px-1.5 py-0.5"
                  placeholder="Its name"
                  aria-label="Name of the role"
                  data-test="role-name" /><button
                  type="submit"
                  class="rounded bg-pine px-2 py-0.5 text-xs font-bold text-on-pine"
                  data-test="save-role">
                  Save</button
                ><button type="button" class="text-xs underline" @click="draft = null">Cancel</button></span
              >
            </th>
            <td v-for="p in data.permissions" :key="p.key" class="text-center">
              <input
                type="checkbox"
                class="accent-pine"
                :checked="draft.permissions.includes(p.key)"
                :disabled="p.key === 'see' || !mine.includes(p.key)"
                :aria-label="SHORT[p.key]"
                @change="flip(p.key)" />
            </td>
          </tr>
        </tbody>
      </table>
    </form>
    <p v-if="said" role="status" class="mt-2 text-[0.8125rem]" data-test="gone-said">{{ said }}</p>
    <p v-if="former.length" class="mt-2 text-[0.8125rem] text-ink-2" data-test="former">
      Worked here:
      <template v-for="(m, n) in former" :key="m.id"
        >{{ n ? ', ' : '' }}{{ m.name }} (until {{ sayDay((m.left_at ?? '').slice(0, 10)) }})</template
      >
    </p>
    <SightDialog
      v-if="limiting"
      :workspace-id="workspaceId"
      :member="limiting"
      :limited="isLimited(limiting.id)"
      :groups="groups ?? []"
      @close="limiting = null"
      @done="gone" />
    <LetGoDialog
      v-if="leaving"
      :workspace-id="workspaceId"
      :member="leaving"
      :members="members ?? []"
      :teams="directory?.teams ?? []"
      @close="leaving = null"
      @gone="gone" />
    <button
      v-if="mayManage && !draft"
      type="button"
      class="mt-2 rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold"
      data-test="new-role"
      @click="begin(null)">
      New role
    </button>
  </section>
</template>
