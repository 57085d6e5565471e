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

/** Whether the password was right and a code is to follow. */
const isHalf = ref(false)
const code = ref('')

async function attempt(work: () => Promise<void>): Promise<void> {
  isBusy.value = true
  problem.value = null
  try {
    await work()
    emit('done')
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    if (error.kind === 'second-step') isHalf.value = true
    else problem.value = error.message
  } finally {
    isBusy.value = false
  }
}
const signIn = (): Promise<void> => attempt(() => session.signIn(email.value, password.value))
const showCode = (): Promise<void> => attempt(() => session.showCode(code.value))
function begin(): void {
  isHalf.value = false
  code.value = ''
  problem.value = null
}
defineExpose({
  /** The password was right already: by a link, or before a reload. */
  askCode: (): void => {
    isHalf.value = true
  },
  fill: (address: string, word: string): void => {
    email.value = address
    password.value = word
  },
})
const vFocus = { mounted: (field: HTMLElement): void => field.focus() }
</script>

<template>
  <form v-if="isHalf" data-test="second-step" @submit.prevent="showCode">
    <label class="block text-xs font-semibold text-ink-2" for="code">The code your app shows</label>
    <input
      id="code"
      v-model="code"
      required
      maxlength="40"
      autocomplete="one-time-code"
      autocapitalize="off"
      spellcheck="false"
      aria-describedby="code-help"
      class="mt-1 w-full rounded border border-rule bg-raised px-3 py-2 tracking-widest"
      v-focus />
    <p id="code-help" class="mt-1 mb-4 text-xs text-ink-2">
      Six digits, new every half minute. Without your app, one of your recovery codes.
    </p>
    <p v-if="problem" role="alert" class="mb-3 rounded bg-brick-wash px-3 py-2 text-brick">{{ problem }}</p>
    <button
      type="submit"
      class="w-full rounded-[5px] bg-pine px-3 py-2 font-bold text-on-pine disabled:opacity-60"
      :disabled="isBusy">
      Go on
    </button>
    <button type="button" class="mt-3 text-[13px] font-semibold text-pine underline" @click="begin">
      Sign in as somebody else
    </button>
  </form>
  <form v-else @submit.prevent="signIn">
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
