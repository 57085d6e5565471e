<script setup lang="ts">
/** For whoever has forgotten their password: a link by mail. */
import { ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'

const emit = defineEmits<{ back: [] }>()
const email = ref('')
const { problem, attempt } = useAttempt()
const isAsked = ref(false)
const ask = (): Promise<boolean> =>
  attempt(async () => {
    await take(api.POST('/api/password-links', { body: { email: email.value } }))
    isAsked.value = true
  })
</script>

<template>
  <form data-test="forgotten" @submit.prevent="ask">
    <p v-if="isAsked" role="status" class="mb-4" data-test="forgotten-asked">
      If somebody here has this address, a link is on its way to it. It leads in for half an hour.
    </p>
    <template v-else>
      <label class="block text-xs font-semibold text-ink-2" for="forgotten-email">Your e-mail address</label>
      <input
        id="forgotten-email"
        v-model="email"
        type="email"
        required
        autocomplete="username"
        class="mt-1 mb-3 w-full rounded border border-rule bg-raised px-3 py-2" />
      <p v-if="problem" role="alert" class="mb-3 rounded bg-brick-wash px-3 py-2 text-brick">{{ problem }}</p>
      <button type="submit" class="w-full rounded-[5px] bg-pine px-3 py-2 font-bold text-on-pine">
        Send me a link
      </button>
    </template>
    <button type="button" class="mt-3 text-[0.8125rem] font-semibold text-pine underline" @click="emit('back')">
      Back to signing in
    </button>
  </form>
</template>
