<script setup lang="ts">
/** In the margin, on its own paper: a question to somebody without a login, and what came back by mail. Never public. */
import { Mail } from '@lucide/vue'
import { computed } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { Advice } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; advice: Advice; zone: string; maySort: boolean }>()
const { sayMember } = useDirectory()
const { problem, attempt } = useAttempt()
const isWaiting = computed(() => props.advice.state === 'sending' || props.advice.state === 'asked')
const stands = computed(() => {
  const a = props.advice
  switch (a.state) {
    case 'sending':
      return a.problem ? `not sent yet: ${a.problem}` : 'is being sent'
    case 'asked':
      return `waits for an answer until ${sayTime(a.wait_until, props.zone)}`
    case 'given':
      return ''
    case 'overdue':
      return `no answer until ${sayTime(a.wait_until, props.zone)}`
    case 'withdrawn':
      return 'not waited for any more'
    case 'refused':
      return `could not be sent: ${a.problem ?? ''}`
  }
  return ''
})

const stop = (): Promise<boolean> =>
  attempt(() =>
    take(
      api.POST('/api/workspaces/{workspace_id}/advice/{advice_id}/stop-waiting', {
        params: { path: { workspace_id: props.workspaceId, advice_id: props.advice.id } },
      }),
    ),
  )
</script>

<template>
  <section
    class="rounded border border-dashed border-sky bg-sky-wash px-2.5 py-2"
    :aria-label="`Advice of ${advice.to_name}, by mail`"
    data-test="advice">
    <p class="flex items-center gap-1.5 text-xs font-semibold text-sky">
      <Mail :size="14" class="shrink-0" aria-hidden="true" /><span class="min-w-0 break-words"
        >{{ sayMember(advice.asked_by) }} asked {{ advice.to_name }} by mail, {{ sayTime(advice.asked_at, zone) }}</span
      >
    </p>
    <p class="mt-0.5 break-words whitespace-pre-wrap" dir="auto">{{ advice.question }}</p>
    <p
      v-if="stands"
      class="mt-0.5 text-xs"
      :class="advice.state === 'refused' || advice.problem ? 'font-semibold text-brick' : 'text-ink-2'"
      data-test="advice-stands">
      {{ stands }}
    </p>
    <div
      v-for="a in advice.answers"
      :key="a.id"
      class="mt-1.5 border-t border-dashed border-sky pt-1.5"
      data-test="advice-answer">
      <small class="block text-xs font-semibold text-sky"
        >{{ a.sender_name || a.sender }}, {{ sayTime(a.at, zone)
        }}<template v-if="a.automatic">: {{ a.automatic }}</template></small
      >
      <p v-if="a.other_sender" class="text-xs font-semibold text-brick">
        From {{ a.sender }}, not from {{ advice.to_address }}, which was asked
      </p>
      <p class="break-words whitespace-pre-wrap" :class="a.automatic ? 'text-ink-2' : ''" dir="auto">{{ a.own }}</p>
      <details v-if="a.quoted" class="text-xs text-ink-2">
        <summary class="cursor-pointer">What the letter quotes</summary>
        <p class="break-words whitespace-pre-wrap" dir="auto">{{ a.quoted }}</p>
      </details>
    </div>
    <p v-if="problem" role="alert" class="text-brick">{{ problem }}</p>
    <button
      v-if="isWaiting && maySort"
      type="button"
      class="mt-1 text-xs font-semibold underline"
      data-test="stop-waiting"
      @click="stop">
      Stop waiting
    </button>
  </section>
</template>
