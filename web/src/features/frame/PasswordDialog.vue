<script setup lang="ts">
/** Another password for oneself. */
import { ref } from 'vue'
import { api, take } from '@/api/client'
import AppDialog from '@/components/ui/AppDialog.vue'
import NewPassword from '@/components/ui/NewPassword.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAttempt } from '@/composables/useAttempt'

const emit = defineEmits<{ close: [] }>()
const before = ref('')
const password = ref('')
const { problem, attempt } = useAttempt()
const isDone = ref(false)
const save = (): Promise<boolean> =>
  attempt(async () => {
    await take(api.PUT('/api/session/password', { body: { before: before.value, password: password.value } }))
    isDone.value = true
  })
</script>

<template>
  <AppDialog open title="Change the password" @close="emit('close')">
    <p v-if="isDone" role="status" data-test="password-done">
      Changed. Wherever else you were signed in, you are not any more.
    </p>
    <form v-else @submit.prevent="save">
      <label class="block text-xs font-semibold text-ink-2" for="before">The present one</label>
      <input
        id="before"
        v-model="before"
        type="password"
        required
        autocomplete="current-password"
        class="mt-1 mb-3 w-full rounded border border-rule bg-raised px-3 py-2" />
      <NewPassword id="new-password" v-model="password" label="Another one" />
      <p v-if="problem" role="alert" class="mb-3 text-brick" data-test="password-problem">{{ problem }}</p>
      <div class="flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit">Change it</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
