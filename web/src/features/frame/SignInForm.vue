<script setup lang="ts">
/** Address and password; what is wrong with them stays here. */
import { ref } from 'vue'
import { ApiProblem } from '@/api/client'
import { useSession } from '@/stores/session'

const props = defineProps<{ address?: string; autofocus?: boolean }>()
const emit = defineEmits<{ done: [] }>()
const session = useSession()
const email = ref(props.address ?? '')
const password = ref('')
const problem = ref<string | null>(null)
const isBusy = ref(false)

async function signIn(): Promise<void> {
  isBusy.value = true
  problem.value = null
  try {
    await session.signIn(email.value, password.value)
    emit('done')
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    problem.value = error.message
  } finally {
    isBusy.value = false
  }
}
defineExpose({
  fill: (address: string, word: string): void => {
    email.value = address
    password.value = word
  },
})
</script>

<template>
  <form @submit.prevent="signIn">
    <label class="block text-xs font-semibold text-ink-2" for="email">E-mail address</label>
    <input
      id="email"
      v-model="email"
      type="email"
      required
      autocomplete="username"
      :autofocus="autofocus && !address"
      class="mt-1 mb-3 w-full rounded border border-rule bg-raised px-3 py-2" />
    <label class="block text-xs font-semibold text-ink-2" for="password">Password</label>
    <input
      id="password"
      v-model="password"
      type="password"
      required
      autocomplete="current-password"
      class="mt-1 mb-4 w-full rounded border border-rule bg-raised px-3 py-2" />
    <p v-if="problem" role="alert" class="mb-3 rounded bg-brick-wash px-3 py-2 text-brick">{{ problem }}</p>
    <button
      type="submit"
      class="w-full rounded-[5px] bg-pine px-3 py-2 font-bold text-on-pine disabled:opacity-60"
      :disabled="isBusy">
      Sign in
    </button>
  </form>
</template>
