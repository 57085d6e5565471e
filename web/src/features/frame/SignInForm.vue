<script setup lang="ts">
/** Address and password; what is wrong with them stays here. */
import { onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ApiProblem, take } from '@/api/client'
import type { SignInWays } from '@/api/types'
import { keepNext } from '@/lib/next'
import { useSession } from '@/stores/session'

const props = defineProps<{ address?: string; autofocus?: boolean }>()
const emit = defineEmits<{ done: [] }>()
const session = useSession()
const route = useRoute()
const email = ref(props.address ?? '')
const password = ref('')
const problem = ref<string | null>(null)
const isBusy = ref(false)

/** Whether the password was right and a code is to follow. */
const isHalf = ref(false)
const code = ref('')

/** How one comes in here besides by password. */
const ways = ref<SignInWays | null>(null)
onMounted(async () => {
  ways.value = await take(api.GET('/api/session/ways')).catch(() => null)
})

async function attempt(work: () => Promise<string | void>): Promise<void> {
  isBusy.value = true
  problem.value = null
  try {
    problem.value = (await work()) || null
    if (problem.value === null) emit('done')
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
const showPasskey = (): Promise<void> => attempt(() => session.showPasskey())
/** Away to the provider's page, and back to where one wanted to be. */
const goToProvider = (): Promise<void> =>
  attempt(async () => {
    const { address: there } = await take(api.POST('/api/session/provider'))
    keepNext(route.name === 'sign-in' ? route.query.next : route.fullPath)
    window.location.assign(there)
    // The page is left: nothing here is done meanwhile.
    await new Promise(() => {})
  })
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
      Six digits, new every half minute. Without your app or passkey, one of your recovery codes.
    </p>
    <p v-if="problem" role="alert" class="mb-3 rounded bg-brick-wash px-3 py-2 text-brick">{{ problem }}</p>
    <button
      type="submit"
      class="w-full rounded-[5px] bg-pine px-3 py-2 font-bold text-on-pine disabled:opacity-60"
      :disabled="isBusy">
      Go on
    </button>
    <button
      v-if="ways?.passkeys"
      type="button"
      class="mt-2 w-full rounded-[5px] border border-rule bg-raised px-3 py-2 font-semibold hover:bg-fold"
      data-test="passkey"
      :disabled="isBusy"
      @click="showPasskey">
      Use a passkey instead
    </button>
    <button type="button" class="mt-3 text-[0.8125rem] font-semibold text-pine underline" @click="begin">
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
    <button
      v-if="ways?.passkeys"
      type="button"
      class="mt-2 w-full rounded-[5px] border border-rule bg-raised px-3 py-2 font-semibold hover:bg-fold"
      data-test="passkey"
      :disabled="isBusy"
      @click="showPasskey">
      Sign in with a passkey
    </button>
    <button
      v-if="ways?.provider"
      type="button"
      class="mt-2 w-full rounded-[5px] border border-rule bg-raised px-3 py-2 font-semibold hover:bg-fold"
      data-test="provider"
      :disabled="isBusy"
      @click="goToProvider">
      Sign in by {{ ways.provider }}
    </button>
  </form>
</template>
