<script setup lang="ts">
/** Account groups: which accounts belong together, and who looks after them. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { AccountGroup } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import MultiPick from '@/components/ui/MultiPick.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { useDirectory } from '@/composables/useDirectory'

const props = defineProps<{ workspaceId: number; mayManage: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const { accounts, members, byMember, byNetwork, refetchDirectory } = useDirectory()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const {
  data: groups,
  ask,
  refetch,
} = useAsk<AccountGroup[]>('The account groups', {
  key: () => ['groups', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/groups', { params: { path: path.value } })),
})
defineExpose({ refetch })
type Draft = Omit<AccountGroup, 'id'> & { id: number | null }
const draft = ref<Draft | null>(null)
const { problem, isBusy, attempt } = useAttempt(async () => {
  await Promise.all([refetch(), refetchDirectory()])
  emit('changed')
})
const sayAccount = (id: number): string => {
  const a = accounts.value?.find((one) => one.id === id)
  return a ? `${a.name} on ${byNetwork.value.get(a.network)?.name ?? a.network}` : 'an account that is gone'
}
const sayNames = (names: string[], none: string): string => names.join(', ') || none
function begin(group: AccountGroup | null): void {
  problem.value = ''
  draft.value = group
    ? { ...group, accounts: [...group.accounts], members: [...group.members] }
    : { id: null, name: '', accounts: [], members: [] }
}
async function save(): Promise<void> {
  const d = draft.value
  if (!d) return
  const body = { name: d.name, accounts: d.accounts, members: d.members }
  const done = await attempt(() =>
    d.id === null
      ? take(api.POST('/api/workspaces/{workspace_id}/groups', { params: { path: path.value }, body }))
      : take(
          api.PUT('/api/workspaces/{workspace_id}/groups/{group_id}', {
            params: { path: { ...path.value, group_id: d.id } },
            body,
          }),
        ),
  )
  if (done) draft.value = null
}
const remove = (group: AccountGroup): Promise<boolean> =>
  attempt(() =>
    take(
      api.DELETE('/api/workspaces/{workspace_id}/groups/{group_id}', {
        params: { path: { ...path.value, group_id: group.id } },
      }),
    ),
  )
</script>

<template>
  <section id="groups" class="mb-8 scroll-mt-4" aria-labelledby="groups-title" data-test="groups">
    <h2 id="groups-title" class="font-name text-lg font-bold">Account groups</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Accounts that belong together, and who looks after them. The desk can show one group at a time; a member who is
      limited to groups sees their accounts and nothing else.
    </p>
    <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick" data-test="group-problem">{{ problem }}</p>
    <div class="rounded-md border border-rule bg-sheet px-4 py-2 text-[0.84375rem]">
      <LoadState :of="ask">
        <p v-if="!groups?.length && !draft" class="py-1 text-ink-2">No groups: everybody sees every account.</p>
        <template v-for="group in groups" :key="group.id">
          <div
            v-if="draft?.id !== group.id"
            class="flex flex-wrap items-baseline gap-x-3 border-b border-rule-soft py-2 last:border-0"
            data-test="group">
            <b class="min-w-32">{{ group.name }}</b>
            <span class="min-w-0 flex-1 basis-72"
              >{{ sayNames(group.accounts.map(sayAccount), 'no account') }}
              <span class="block text-xs text-ink-2">{{
                sayNames(
                  group.members.map((m) => byMember.get(m)?.name ?? 'somebody'),
                  'nobody looks after it',
                )
              }}</span></span
            >
            <span v-if="mayManage && !draft" class="flex gap-3 text-[0.8125rem]"
              ><button type="button" class="underline" :aria-label="`Change ${group.name}`" @click="begin(group)">
                Change</button
              ><button type="button" class="underline" :aria-label="`Remove ${group.name}`" @click="remove(group)">
                Remove
              </button></span
            >
          </div>
        </template>
        <form v-if="draft" class="grid gap-2 py-2" data-test="group-form" @submit.prevent="save">
          <label class="flex flex-wrap items-center gap-2"
            ><span class="w-28 text-xs font-semibold text-ink-2">Name</span
            ><input
              v-model="draft.name"
              required
              maxlength="60"
              class="w-64 max-w-full rounded border border-rule bg-raised px-2 py-1"
              data-test="group-name" /></label
          ><span class="flex flex-wrap items-center gap-2"
            ><span class="w-28 text-xs font-semibold text-ink-2">Accounts</span
            ><MultiPick
              v-model="draft.accounts"
              label="Accounts"
              empty="no account"
              :choices="(accounts ?? []).map((a) => ({ value: a.id, text: sayAccount(a.id) }))" /></span
          ><span class="flex flex-wrap items-center gap-2"
            ><span class="w-28 text-xs font-semibold text-ink-2">Looked after by</span
            ><MultiPick
              v-model="draft.members"
              label="Members"
              empty="nobody"
              :choices="(members ?? []).map((m) => ({ value: m.id, text: m.name }))"
          /></span>
          <span class="flex gap-2"
            ><button
              type="submit"
              class="rounded bg-pine px-3 py-1 font-semibold text-on-pine disabled:opacity-60"
              :disabled="isBusy"
              data-test="save-group">
              Save</button
            ><button type="button" class="px-2 underline" @click="draft = null">Cancel</button></span
          >
        </form>
      </LoadState>
    </div>
    <button
      v-if="mayManage && !draft"
      type="button"
      class="mt-2 rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold"
      data-test="new-group"
      @click="begin(null)">
      New group
    </button>
  </section>
</template>
