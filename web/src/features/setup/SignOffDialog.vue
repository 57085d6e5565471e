<script setup lang="ts">
/** The line that closes an account's answers, with what it looks like for oneself. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { Account } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useSession } from '@/stores/session'

const props = defineProps<{ workspaceId: number; account: Account }>()
const emit = defineEmits<{ close: []; saved: [] }>()
const session = useSession()
const line = ref(props.account.sign_off)
const { problem, isBusy, attempt } = useAttempt()
const READY = [
  ['', 'None'],
  ['– {initials}', 'The initials of whoever writes'],
  ['{first name}', 'The first name of whoever writes'],
] as const
const preview = computed(() =>
  line.value
    .replaceAll('{initials}', session.session?.initials ?? '')
    .replaceAll('{first name}', session.session?.name.split(' ')[0] ?? '')
    .trim(),
)
async function save(): Promise<void> {
  const done = await attempt(() =>
    take(
      api.PUT('/api/workspaces/{workspace_id}/accounts/{account_id}/sign-off', {
        params: { path: { workspace_id: props.workspaceId, account_id: props.account.id } },
        body: { sign_off: line.value },
      }),
    ),
  )
  if (done) emit('saved')
}
</script>

<template>
  <AppDialog open :title="`Sign-off of ${account.name} on ${account.network_name}`" @close="emit('close')">
    <form @submit.prevent="save">
      <p class="flex flex-wrap gap-1.5" role="group" aria-label="Ready ones">
        <button
          v-for="[value, words] in READY"
          :key="value"
          type="button"
          class="min-h-6 rounded px-2 py-0.5 text-[0.8125rem]"
          :class="line === value ? 'bg-pine-wash font-semibold text-pine' : 'bg-fold'"
          :aria-pressed="line === value"
          @click="line = value">
          {{ words }}
        </button>
      </p>
      <label class="mt-3 block text-xs font-semibold text-ink-2" for="sign-off">Or a line of your own</label>
      <input
        id="sign-off"
        v-model="line"
        maxlength="80"
        autocomplete="off"
        class="mt-1 w-full rounded border border-rule bg-raised px-2 py-1.5"
        data-test="sign-off-line" />
      <p class="mt-1 text-[0.8125rem] text-ink-2">
        {initials} and {first name} are those of whoever sends the answer. What a rule answers carries a line without
        them.
      </p>
      <p v-if="preview" class="mt-3 border-l-2 border-rule pl-2 text-[0.8125rem]">
        Yours: <b>{{ preview }}</b>
      </p>
      <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit" :disabled="isBusy" data-test="save-sign-off">Save</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
