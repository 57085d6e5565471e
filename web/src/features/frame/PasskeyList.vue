<script setup lang="ts">
/** One's passkeys: made on this device, and taken back. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { OwnAccount } from '@/api/types'
import OwnPassword from './OwnPassword.vue'
import RecoveryCodes from './RecoveryCodes.vue'
import { useAttempt } from '@/composables/useAttempt'
import { hasPasskeys, makePasskey } from '@/lib/passkeys'
import { sayTime } from '@/lib/words'

const props = defineProps<{ account: OwnAccount; zone: string }>()
const emit = defineEmits<{ changed: [] }>()
/** What the password is asked for: a new one, or taking back the one of this number. */
const doing = ref<'make' | number | null>(null)
const password = ref('')
const name = ref('')
const codes = ref<string[]>([])
/** What the browser said, which the server never heard of. */
const said = ref('')
const { problem, isBusy, attempt } = useAttempt()
const here = computed(() => props.account.sessions.find((s) => s.is_this)?.browser ?? 'This device')

function start(what: 'make' | number): void {
  doing.value = what
  name.value = here.value
  codes.value = []
  password.value = problem.value = said.value = ''
}
function end(): void {
  doing.value = null
  password.value = ''
}
const goOn = (): Promise<boolean> =>
  attempt(async () => {
    said.value = ''
    const body = { password: password.value }
    if (doing.value === 'make') {
      const { options } = await take(api.POST('/api/me/passkeys/ask', { body }))
      const made = await makePasskey(options)
      if ('problem' in made) {
        said.value = made.problem
        return
      }
      const kept = { credential: made.credential, name: name.value }
      codes.value = (await take(api.POST('/api/me/passkeys', { body: kept }))).codes
    } else if (doing.value !== null) {
      const path = { passkey_id: doing.value }
      await take(api.POST('/api/me/passkeys/{passkey_id}/remove', { params: { path }, body }))
    }
    end()
    emit('changed')
  })
const input = 'mt-1 mb-3 block w-full rounded border border-rule bg-raised px-3 py-2 text-sm font-normal text-ink'
const button = 'rounded border border-rule bg-raised px-3 py-1.5 font-semibold hover:bg-fold'
const main = 'rounded bg-pine px-3 py-1.5 font-bold text-on-pine disabled:opacity-60'
</script>

<template>
  <div data-test="passkeys">
    <p class="mb-2">
      A passkey lets you in by your finger, your face or the PIN of a device, without a password; nobody can be talked
      into giving it away.
    </p>
    <ul v-if="account.passkeys.length" class="mb-3">
      <li
        v-for="one in account.passkeys"
        :key="one.id"
        class="flex items-baseline justify-between gap-4 border-b border-rule-soft py-2 last:border-0"
        data-test="passkey">
        <span
          ><b>{{ one.name }}</b
          ><span class="block text-xs text-ink-2"
            >made {{ sayTime(one.made_at, zone) }},
            {{ one.used_at ? `last used ${sayTime(one.used_at, zone)}` : 'not used yet' }}</span
          ></span
        >
        <button
          type="button"
          class="shrink-0 text-[0.8125rem] font-semibold underline"
          :aria-label="`Remove the passkey ${one.name}`"
          @click="start(one.id)">
          Remove
        </button>
      </li>
    </ul>
    <RecoveryCodes v-if="codes.length" :codes="codes" />
    <p v-if="!account.takes_passkeys" class="text-[0.8125rem] text-ink-2">
      Browsers take passkeys at an address with a name, by https. This installation is reached otherwise.
    </p>
    <p v-else-if="!hasPasskeys()" class="text-[0.8125rem] text-ink-2">This browser knows no passkeys.</p>
    <button v-else-if="doing === null" type="button" :class="button" data-test="make-passkey" @click="start('make')">
      Make a passkey on this device
    </button>
    <form v-if="doing !== null" class="max-w-sm" @submit.prevent="goOn">
      <label v-if="doing === 'make'" class="block text-xs font-semibold text-ink-2"
        >What you call it<input v-model="name" required maxlength="60" :class="input"
      /></label>
      <OwnPassword v-model="password" :has-password="account.has_password" test="passkey-password" />
      <p v-if="problem || said" role="alert" class="mb-3 text-brick" data-test="passkey-problem">
        {{ problem || said }}
      </p>
      <div class="flex gap-2">
        <button type="submit" :class="main" :disabled="isBusy">
          {{ doing === 'make' ? 'Make it' : 'Remove it' }}
        </button>
        <button type="button" :class="button" @click="end">Cancel</button>
      </div>
    </form>
  </div>
</template>
