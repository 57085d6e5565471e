<script setup lang="ts">
/** What networks sent that could not be taken in: whole, with the reason, and another try. */
import WhatIs from '@/features/help/WhatIs.vue'
import { useAsk } from '@/composables/useAsk'
import { ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Aside } from '@/api/types'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{ workspaceId: number }>()
const session = useSession()
const answers = ref<Record<number, string>>({})
const { data, error, refetch } = useAsk<Aside[]>('What could not be taken in', {
  key: () => ['aside', props.workspaceId],
  query: () =>
    take(api.GET('/api/workspaces/{workspace_id}/aside', { params: { path: { workspace_id: props.workspaceId } } })),
})

async function tryAgain(item: Aside): Promise<void> {
  try {
    const answer = await take(
      api.POST('/api/workspaces/{workspace_id}/aside/{aside_id}/try', {
        params: { path: { workspace_id: props.workspaceId, aside_id: item.id } },
      }),
    )
    answers.value[item.id] = answer.reason ? `Still not: ${answer.reason}` : 'Taken in.'
    if (!answer.reason) await refetch()
  } catch (problem) {
    if (!(problem instanceof ApiProblem)) throw problem
    answers.value[item.id] = problem.message
  }
}
</script>

<template>
  <section aria-labelledby="aside-title">
    <h2 id="aside-title" class="font-name text-lg font-bold">Kept aside<WhatIs id="kept-aside" word="kept aside" /></h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      What networks sent that could not be understood. Nothing is lost: each can be tried again once the reason is
      mended.
    </p>
    <p v-if="error" role="alert" class="text-brick">{{ error.message }}</p>
    <p v-else-if="data && !data.length" class="rounded-md border border-rule bg-sheet px-4 py-6 text-center text-ink-2">
      Nothing is kept aside: everything that came in was understood.
    </p>
    <ul v-else-if="data" class="rounded-md border border-rule bg-sheet">
      <li v-for="a in data" :key="a.id" class="border-b border-rule-soft px-4 py-3 last:border-0" data-test="aside">
        <div class="flex items-baseline gap-3">
          <b>{{ a.reason }}</b>
          <span class="text-[0.8125rem] whitespace-nowrap text-ink-2"
            >{{ a.account_name }} on {{ a.network }},
            {{ sayTime(a.received_at, session.workspace?.time_zone ?? 'UTC') }}, by {{ a.source }}</span
          >
          <button
            type="button"
            class="ml-auto rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold whitespace-nowrap hover:bg-fold"
            @click="tryAgain(a)">
            Try again
          </button>
        </div>
        <p v-if="answers[a.id]" role="status" class="text-[0.8125rem] text-honey">{{ answers[a.id] }}</p>
        <pre
          class="mt-1 max-h-24 scroll-quiet overflow-auto rounded bg-paper p-2 text-xs whitespace-pre-wrap"
          tabindex="0"
          >{{ a.body }}</pre>
      </li>
    </ul>
  </section>
</template>
