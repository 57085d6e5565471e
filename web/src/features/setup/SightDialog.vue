<script setup lang="ts">
/** What a member sees: every account, or the accounts of their groups. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { AccountGroup, Member } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAttempt } from '@/composables/useAttempt'

const props = defineProps<{ workspaceId: number; member: Member; limited: boolean; groups: AccountGroup[] }>()
const emit = defineEmits<{ close: []; done: [said: string] }>()
const limited = ref(props.limited)
const picked = ref(props.groups.filter((g) => g.members.includes(props.member.id)).map((g) => g.id))
const names = computed(() =>
  props.groups
    .filter((g) => picked.value.includes(g.id))
    .map((g) => g.name)
    .join(', '),
)
const { problem, isBusy, attempt } = useAttempt()
const save = (): Promise<boolean> =>
  attempt(async () => {
    await take(
      api.PUT('/api/workspaces/{workspace_id}/members/{member_id}/sight', {
        params: { path: { workspace_id: props.workspaceId, member_id: props.member.id } },
        body: { limited: limited.value, groups: picked.value },
      }),
    )
    const seen = limited.value ? `the accounts of ${names.value || 'no group'}` : 'every account'
    emit('done', `${props.member.name} sees ${seen} from now on.`)
  })
</script>

<template>
  <AppDialog open :title="`What ${member.name} sees`" @close="emit('close')">
    <form class="grid gap-2" data-test="sight" @submit.prevent="save">
      <label class="flex items-center gap-2"
        ><input v-model="limited" type="radio" :value="false" class="accent-pine" /> Every account</label
      ><label class="flex items-center gap-2"
        ><input v-model="limited" type="radio" :value="true" class="accent-pine" data-test="limited" /> Only the
        accounts of their groups, and what came by them</label
      >
      <fieldset class="mt-1">
        <legend class="mb-1 text-xs font-semibold text-ink-2">Their groups</legend>
        <p v-if="!groups.length" class="text-ink-2">There are no groups yet: make one under Account groups.</p>
        <label v-for="g in groups" :key="g.id" class="flex items-center gap-2"
          ><input v-model="picked" type="checkbox" :value="g.id" class="accent-pine" /> {{ g.name }}
          <span class="text-xs text-ink-2"
            >{{ g.accounts.length }} {{ g.accounts.length === 1 ? 'account' : 'accounts' }}</span
          ></label
        >
      </fieldset>
      <p v-if="limited" class="text-xs text-ink-2">
        What they have open on other accounts goes back to nobody. While they are limited they do not manage members,
        accounts, rules or saved replies, and do not hold what goes out, whatever their role says.
      </p>
      <p v-if="problem" role="alert" class="text-brick" data-test="sight-problem">{{ problem }}</p>
      <div class="mt-1 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit" :disabled="isBusy" data-test="save-sight">Save</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
