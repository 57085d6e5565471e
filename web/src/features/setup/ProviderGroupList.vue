<script setup lang="ts">
/** Which groups of the provider that members sign in by work here, and as what. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { ProviderGroups, Roles } from '@/api/types'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'

const props = defineProps<{ workspaceId: number }>()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, refetch } = useAsk<ProviderGroups>('Groups that work here', {
  key: () => ['provider-groups', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/provider-groups', { params: { path: path.value } })),
})
const { data: roles } = useAsk<Roles>('Members and roles', {
  key: () => ['roles', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/roles', { params: { path: path.value } })),
})
/** What gives no more than one holds oneself. */
const givable = computed(() => {
  const mine = roles.value?.roles.find((r) => r.key === roles.value?.mine)?.permissions ?? []
  return (roles.value?.roles ?? []).filter((r) => r.permissions.every((p) => mine.includes(p)))
})
const { problem, isBusy, attempt } = useAttempt(refetch)
const name = ref('')
const role = ref('')
const add = (): Promise<boolean> =>
  attempt(async () => {
    const body = { name: name.value, role: role.value }
    await take(api.POST('/api/workspaces/{workspace_id}/provider-groups', { params: { path: path.value }, body }))
    name.value = ''
  })
const remove = (id: number): Promise<boolean> =>
  attempt(() =>
    take(
      api.DELETE('/api/workspaces/{workspace_id}/provider-groups/{group_id}', {
        params: { path: { ...path.value, group_id: id } },
      }),
    ),
  )
</script>

<template>
  <div v-if="data?.provider" class="mt-4" data-test="provider-groups">
    <h3 class="font-semibold">Groups at {{ data.provider }}</h3>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Who signs in by {{ data.provider }} and is in one of these groups works here, in its role, as long as they are in
      it. What you give somebody by hand stays as it is.
    </p>
    <ul v-if="data.groups.length" class="mb-2">
      <li
        v-for="one in data.groups"
        :key="one.id"
        class="flex items-baseline justify-between gap-4 border-b border-rule-soft py-1.5"
        data-test="provider-group">
        <span
          ><b>{{ one.name }}</b> works here as {{ one.role_name }}</span
        >
        <button
          type="button"
          class="text-[0.8125rem] font-semibold underline"
          :aria-label="`Remove the group ${one.name}`"
          @click="remove(one.id)">
          Remove
        </button>
      </li>
    </ul>
    <form class="flex flex-wrap items-end gap-2" @submit.prevent="add">
      <label class="text-xs font-semibold text-ink-2"
        >The group’s name there<input
          v-model="name"
          required
          maxlength="255"
          class="mt-1 block rounded border border-rule bg-raised px-2 py-1 text-sm font-normal text-ink"
      /></label>
      <label class="text-xs font-semibold text-ink-2"
        >Works here as<select
          v-model="role"
          required
          class="mt-1 block rounded border border-rule bg-raised px-2 py-1 text-sm font-normal text-ink">
          <option value="" disabled>Choose a role</option>
          <option v-for="one in givable" :key="one.key" :value="one.key">{{ one.name }}</option>
        </select></label
      >
      <button
        type="submit"
        class="rounded border border-rule bg-raised px-3 py-1 font-semibold hover:bg-fold"
        :disabled="isBusy">
        Add
      </button>
    </form>
    <p v-if="problem" role="alert" class="mt-1 text-[0.8125rem] text-brick">{{ problem }}</p>
  </div>
</template>
