<script setup lang="ts">
/** What the workspace's members have taught the reading: learned from how much, how it did on what it was not learned from, and a way back. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { Accuracy } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{ own: Accuracy['own']; workspaceId: number }>()
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const { sayMember } = useDirectory()
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const latest = computed(() => props.own.latest)
const isUsed = computed(() => latest.value?.state === 'in_use')
const changes = computed(() => [
  ...(latest.value?.better ?? []).map((message) => ({ message, isBetter: true })),
  ...(latest.value?.worse ?? []).map((message) => ({ message, isBetter: false })),
])
const sayF1 = (f1: number): string => f1.toFixed(3)
const { problem, isBusy: isSaving, attempt } = useAttempt()
async function takeBack(): Promise<void> {
  if (isSaving.value) return
  await attempt(() =>
    take(
      api.POST('/api/workspaces/{workspace_id}/reading/own/take-back', {
        params: { path: { workspace_id: props.workspaceId } },
      }),
    ),
  )
  emit('changed')
}
</script>

<template>
  <div class="mb-3 rounded-md border border-rule bg-sheet px-4 py-3 text-[0.8125rem]" data-test="own-reading">
    <h3 class="mb-1 font-semibold">What you have taught it</h3>
    <template v-if="latest">
      <p v-if="isUsed">
        Since {{ sayTime(latest.learned_at, zone) }} messages here are read by a reading of your own: learned from
        {{ latest.learned }} messages that you corrected or looked at.
      </p>
      <p v-else-if="latest.state === 'no_better'">
        On {{ sayTime(latest.learned_at, zone) }} it was learned from {{ latest.learned }} messages that you corrected
        or looked at, and is not used: it was no better.
      </p>
      <p v-else-if="latest.state === 'taken_back'">
        What was learned on {{ sayTime(latest.learned_at, zone) }} was taken back by {{ sayMember(latest.ended_by) }}
        {{ latest.ended_at ? sayTime(latest.ended_at, zone) : '' }}: messages are read as everybody's are.
      </p>
      <p class="text-ink-2">
        Of {{ latest.kept }} others kept for checking {{ latest.right_after }} read right,
        {{ latest.right_before }} before; on the written texts set aside it scores {{ sayF1(latest.f1_after) }},
        {{ sayF1(latest.f1_before) }}
        before (F1, 1 is best).
      </p>
      <ul v-if="isUsed && changes.length" class="my-1">
        <li v-for="c in changes" :key="c.message.id" :class="c.isBetter ? '' : 'text-brick'">
          {{ c.isBetter ? 'Right now:' : 'Wrong now:' }}
          <RouterLink
            class="underline"
            :to="{
              name: 'desk',
              params: { workspace: String(workspaceId), conversation: String(c.message.conversation_id) },
            }"
            >“{{ c.message.body }}”</RouterLink
          >
        </li>
      </ul>
      <button
        v-if="isUsed && session.may('manage_rules')"
        type="button"
        class="mt-1 rounded border border-rule bg-raised px-2.5 py-0.5 hover:bg-fold"
        :disabled="isSaving"
        data-test="take-back"
        @click="takeBack">
        Take it back: read as everybody's here
      </button>
      <p v-if="problem" role="alert" class="mt-1 text-brick">{{ problem }}</p>
    </template>
    <p class="text-ink-2">
      <template v-if="own.still_needed">
        You have said something of {{ own.said }} {{ own.said === 1 ? 'message' : 'messages' }}; with
        {{ own.still_needed }} more it is learned {{ latest ? 'again' : 'from' }}. Half of them are kept for checking,
        and it is used only when it reads these better and the written texts no worse.
      </template>
      <template v-else-if="!isUsed">It is learned from within the next quarter of an hour.</template>
    </p>
  </div>
</template>
