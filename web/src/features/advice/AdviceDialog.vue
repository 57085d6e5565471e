<script setup lang="ts">
/** Ask somebody without a login, by mail; the conversation goes along. */
import { useAsk } from '@/composables/useAsk'
import { ref, watch } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'

const props = defineProps<{ workspaceId: number; conversation: number; person: string }>()
const emit = defineEmits<{ close: []; asked: [seq: number, name: string] }>()
const path = { workspace_id: props.workspaceId }
const { data: known } = useAsk('Whom you asked before', {
  key: ['advice-addresses', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/advice-addresses', { params: { path } })),
})
const address = ref('')
const name = ref('')
const question = ref('')
const hours = ref(4)
const { problem, isBusy: isSending, attempt } = useAttempt()
const WAITS: [hours: number, words: string][] = [
  [1, 'an hour'],
  [4, '4 hours'],
  [24, 'a day'],
  [72, '3 days'],
  [168, 'a week'],
]
watch(address, (now) => {
  const one = known.value?.find((k) => k.to_address === now.trim())
  if (one && !name.value) name.value = one.to_name
})

const ask = (): Promise<boolean> =>
  attempt(async () => {
    const body = {
      to_address: address.value,
      to_name: name.value,
      question: question.value,
      wait_until: new Date(Date.now() + hours.value * 3_600_000).toISOString(),
    }
    const { seq } = await take(
      api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/advice', {
        params: { path: { ...path, conversation_id: props.conversation } },
        body,
      }),
    )
    emit('asked', seq, name.value || address.value)
  })
const field = 'mt-1 w-full rounded border border-rule bg-raised px-2 py-1.5 text-[0.875rem] font-normal text-ink'
</script>

<template>
  <AppDialog open title="Ask somebody outside" @close="emit('close')">
    <form @submit.prevent="ask">
      <p class="text-[0.8125rem] text-ink-2">
        By mail, to somebody who has no login here. They get what {{ person }} wrote and what we answered; their answer
        comes into the margin and is never published.
      </p>
      <div class="mt-2 grid grid-cols-2 gap-3">
        <label class="block text-xs font-semibold text-ink-2"
          >Mail address<input
            v-model="address"
            type="email"
            required
            maxlength="254"
            list="asked-before"
            autocomplete="off"
            :class="field"
            data-test="advice-address"
        /></label>
        <label class="block text-xs font-semibold text-ink-2"
          >Name<input v-model="name" maxlength="120" autocomplete="off" :class="field" data-test="advice-name"
        /></label>
      </div>
      <datalist id="asked-before">
        <option v-for="k in known ?? []" :key="k.to_address" :value="k.to_address">{{ k.to_name }}</option>
      </datalist>
      <label class="mt-2 block text-xs font-semibold text-ink-2"
        >Question<textarea
          v-model="question"
          rows="4"
          required
          maxlength="4000"
          spellcheck="true"
          :class="field"
          data-test="advice-question" />
      </label>
      <label class="mt-2 block text-xs font-semibold text-ink-2"
        >Wait for the answer
        <select
          v-model.number="hours"
          class="ml-1 rounded border border-rule bg-raised px-1 py-0.5 text-[0.8125rem]"
          data-test="advice-wait">
          <option v-for="[n, words] in WAITS" :key="n" :value="n">{{ words }}</option>
        </select></label
      >
      <p class="mt-1 text-xs text-ink-2">
        Until then it is their move. If no answer comes it is ours again, and you are told.
      </p>
      <p v-if="problem" role="alert" class="mt-2 text-brick" data-test="advice-problem">{{ problem }}</p>
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <button
          type="submit"
          class="rounded bg-sky px-3 py-1.5 font-bold text-sheet disabled:opacity-50"
          :disabled="isSending"
          data-test="advice-ask">
          Ask by mail
        </button>
      </div>
    </form>
  </AppDialog>
</template>
