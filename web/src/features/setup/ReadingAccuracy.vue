<script setup lang="ts">
/** How often members have left what a message was read as, and what they corrected last. */
import { useAsk } from '@/composables/useAsk'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import type { Accuracy } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{ workspaceId: number }>()
const session = useSession()
const { sayMember } = useDirectory()
const { data } = useAsk<Accuracy>('How often the reading was right', {
  key: () => ['reading', props.workspaceId],
  query: () =>
    take(api.GET('/api/workspaces/{workspace_id}/reading', { params: { path: { workspace_id: props.workspaceId } } })),
})
const WORDS: Record<string, string> = { reads_as: 'What it reads as', sentiment: 'Sentiment', language: 'Language' }
const share = (f: { looked_at: number; corrected: number }): string =>
  f.looked_at ? `${((1 - f.corrected / f.looked_at) * 100).toFixed(1)} %` : 'nothing yet'
</script>

<template>
  <section v-if="data" class="mb-8" aria-labelledby="reading-title">
    <h2 id="reading-title" class="font-name text-lg font-bold">How well messages are read here</h2>
    <p class="mb-2 text-[13px] text-ink-2">
      Of the messages in conversations that somebody sorted, how many were left as they were read. A reading is a hint;
      correct one with C on the desk.
    </p>
    <table class="mb-2 w-full rounded-md border border-rule bg-sheet text-left">
      <thead class="text-[13px] text-ink-2">
        <tr class="[&>th]:px-4 [&>th]:py-1.5">
          <th>Reading</th>
          <th class="text-right">Left as read</th>
          <th class="text-right">Messages</th>
          <th class="text-right">Corrected</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in data.fields" :key="f.field" class="border-t border-rule-soft [&>td]:px-4 [&>td]:py-1.5">
          <td class="font-semibold">{{ WORDS[f.field] }}</td>
          <td class="text-right">{{ share(f) }}</td>
          <td class="text-right">{{ f.looked_at }}</td>
          <td class="text-right">{{ f.corrected }}</td>
        </tr>
      </tbody>
    </table>
    <ul v-if="data.latest.length" class="text-[13px]">
      <li v-for="c in data.latest.slice(0, 5)" :key="c.message_id + c.field" class="py-0.5">
        {{ sayTime(c.at, session.workspace?.time_zone ?? 'UTC') }} {{ sayMember(c.member_id) }}:
        {{ WORDS[c.field]?.toLowerCase() }} {{ c.was || 'none' }} to {{ c.now || 'none' }},
        <RouterLink
          class="underline"
          :to="{ name: 'desk', params: { workspace: String(workspaceId), conversation: String(c.conversation_id) } }"
          >“{{ c.body }}”</RouterLink
        >
      </li>
    </ul>
  </section>
</template>
