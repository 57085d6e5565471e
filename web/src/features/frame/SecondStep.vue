<script setup lang="ts">
/** Setting up the second step at signing in, turning it off, and other recovery codes. */
import { ref } from 'vue'
import { api, take } from '@/api/client'
import type { OwnAccount, SecondSetup } from '@/api/types'
import OwnPassword from './OwnPassword.vue'
import RecoveryCodes from './RecoveryCodes.vue'
import { useAttempt } from '@/composables/useAttempt'

defineProps<{ account: OwnAccount }>()
const emit = defineEmits<{ changed: [] }>()
const doing = ref<'begin' | 'off' | 'codes' | null>(null)
const password = ref('')
const code = ref('')
const setup = ref<SecondSetup | null>(null)
const codes = ref<string[]>([])
const { problem, isBusy, attempt } = useAttempt()
const WORDS = { begin: 'Go on', off: 'Turn it off', codes: 'Make new ones' } as const

function start(what: 'begin' | 'off' | 'codes'): void {
  doing.value = what
  codes.value = []
  problem.value = ''
}
function end(): void {
  doing.value = null
  setup.value = null
  password.value = code.value = problem.value = ''
}
const goOn = (): Promise<boolean> =>
  attempt(async () => {
    const body = { password: password.value }
    if (doing.value === 'begin') {
      setup.value = await take(api.POST('/api/me/second', { body }))
      password.value = ''
      return
    }
    if (doing.value === 'off') await take(api.POST('/api/me/second/off', { body }))
    else codes.value = (await take(api.POST('/api/me/recovery-codes', { body }))).codes
    end()
    emit('changed')
  })
const confirm = (): Promise<boolean> =>
  attempt(async () => {
    codes.value = (await take(api.POST('/api/me/second/confirm', { body: { code: code.value } }))).codes
    end()
    emit('changed')
  })
const input = 'mt-1 mb-3 block w-full rounded border border-rule bg-raised px-3 py-2 text-sm font-normal text-ink'
const button = 'rounded border border-rule bg-raised px-3 py-1.5 font-semibold hover:bg-fold'
const main = 'rounded bg-pine px-3 py-1.5 font-bold text-on-pine disabled:opacity-60'
const vFocus = { mounted: (field: HTMLElement): void => field.focus() }
</script>

<template>
  <div data-test="second">
    <p class="mb-2">
      <template v-if="account.is_on"
        >After your password you are asked for
        {{
          account.has_app && account.passkeys.length
            ? 'a code of your app or a passkey'
            : account.has_app
              ? 'a code of your app'
              : 'a passkey'
        }}. {{ account.codes_left }} recovery {{ account.codes_left === 1 ? 'code is' : 'codes are' }} left.</template
      ><template v-else
        >Only your password is asked for. With a second step, whoever learns it still cannot get in: an app on your
        phone shows a code that changes every half minute, or a device of yours holds a passkey.</template
      >
    </p>
    <RecoveryCodes v-if="codes.length" :codes="codes" />
    <div v-if="!doing" class="flex flex-wrap gap-2">
      <button v-if="!account.has_app" type="button" :class="main" data-test="begin-second" @click="start('begin')">
        {{ account.is_on ? 'Add the codes of an app' : 'Set up a second step' }}
      </button>
      <button v-if="account.is_on" type="button" :class="button" @click="start('codes')">New recovery codes</button>
      <button v-if="account.has_app" type="button" :class="button" @click="start('off')">
        {{ account.passkeys.length ? 'Turn the app’s codes off' : 'Turn it off' }}
      </button>
    </div>
    <form v-else-if="!setup" class="max-w-sm" @submit.prevent="goOn">
      <OwnPassword v-model="password" :has-password="account.has_password" test="second-password" />
      <p v-if="problem" role="alert" class="mb-3 text-brick" data-test="second-problem">{{ problem }}</p>
      <div class="flex gap-2">
        <button type="submit" :class="main" :disabled="isBusy">{{ WORDS[doing] }}</button>
        <button type="button" :class="button" @click="end">Cancel</button>
      </div>
    </form>
    <form v-else class="grid gap-4 sm:grid-cols-[auto_1fr]" @submit.prevent="confirm">
      <!-- Made by the server, of an address it made: nothing of anybody else's is in it. Apps read dark on light. -->
      <div
        class="bg-white w-fit rounded-md p-1"
        role="img"
        aria-label="The picture for your app"
        v-html="setup.picture" />
      <div class="max-w-sm">
        <p class="mb-2">Have your app read the picture, or type this into it:</p>
        <p class="mb-3 font-mono text-[0.8125rem] break-all select-all" data-test="second-secret">{{ setup.secret }}</p>
        <label class="block text-xs font-semibold text-ink-2"
          >The code it shows now<input
            v-model="code"
            required
            maxlength="20"
            inputmode="numeric"
            autocomplete="one-time-code"
            class="tracking-widest"
            :class="input"
            data-test="second-code"
            v-focus
        /></label>
        <p v-if="problem" role="alert" class="mb-3 text-brick" data-test="second-problem">{{ problem }}</p>
        <div class="flex gap-2">
          <button type="submit" :class="main" :disabled="isBusy">Confirm</button>
          <button type="button" :class="button" @click="end">Cancel</button>
        </div>
      </div>
    </form>
  </div>
</template>
