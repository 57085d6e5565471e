<script setup lang="ts">
/** Where one is sent text messages: a number, and the code that was sent there. */
import { ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'

defineProps<{ phone: string | null; refused: string | null }>()
const emit = defineEmits<{ changed: [] }>()
const number = ref('')
const code = ref('')
const sentTo = ref('')
const { problem, isBusy, attempt } = useAttempt()

async function send(): Promise<void> {
  const to = number.value.trim()
  if (!(await attempt(() => take(api.POST('/api/me/phone', { body: { phone: to } }))))) return
  sentTo.value = to
  code.value = ''
}
async function confirm(): Promise<void> {
  if (!(await attempt(() => take(api.POST('/api/me/phone/confirm', { body: { code: code.value } }))))) return
  sentTo.value = number.value = ''
  emit('changed')
}
async function remove(): Promise<void> {
  if (await attempt(() => take(api.DELETE('/api/me/phone')))) emit('changed')
}
const input = 'rounded border border-rule bg-raised px-2 py-1'
const button = 'rounded border border-rule bg-raised px-2.5 py-1 font-semibold hover:bg-fold disabled:opacity-50'
</script>

<template>
  <div class="text-[0.84375rem]" data-test="phone">
    <p v-if="phone && !sentTo">
      Text messages go to <b>{{ phone }}</b>, for every workspace you work in.
      <button type="button" class="ml-2 underline" @click="remove">Not any more</button>
    </p>
    <p v-if="phone && refused" class="mt-1 text-brick">The last one was refused: {{ refused }}</p>
    <form v-if="!phone && !sentTo" class="flex flex-wrap items-center gap-2" @submit.prevent="send">
      <label class="flex items-center gap-2"
        >Number for text messages
        <input
          v-model="number"
          type="tel"
          autocomplete="tel"
          placeholder="+45 12 34 56 78"
          :class="input"
          data-test="phone-number"
      /></label>
      <button type="submit" :class="button" :disabled="isBusy || !number.trim()">Send a code there</button>
    </form>
    <form v-if="sentTo" class="flex flex-wrap items-center gap-2" @submit.prevent="confirm">
      <label class="flex items-center gap-2"
        >The code that was sent to {{ sentTo }}
        <input
          v-model="code"
          inputmode="numeric"
          autocomplete="one-time-code"
          class="w-28"
          :class="input"
          data-test="phone-code"
      /></label>
      <button type="submit" :class="button" :disabled="isBusy || !code.trim()">That is it</button>
      <button type="button" class="underline" @click="sentTo = ''">Another number</button>
    </form>
    <p v-if="problem" role="alert" class="mt-1 text-brick">{{ problem }}</p>
  </div>
</template>
