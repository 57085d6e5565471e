<script setup lang="ts">
/** How right the reading is here, counted on a small sample of each week that somebody looked at, and what was corrected besides. */
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import KeyCap from '@/components/ui/KeyCap.vue'
import LoadState from '@/components/ui/LoadState.vue'
import { sayShare, useAccuracy } from '@/composables/useAccuracy'
import { useDirectory } from '@/composables/useDirectory'
import { useKeys } from '@/composables/useKeys'
import { LABELS, READS_AS, sayReads, type Label } from '@/lib/filters'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'
import OwnReading from './OwnReading.vue'

const props = defineProps<{ workspaceId: number }>()
const session = useSession()
const { sayMember } = useDirectory()
const { data, refetch, ask } = useAccuracy(() => props.workspaceId)
const WORDS: Record<string, string> = { reads_as: 'What it reads as', sentiment: 'Sentiment', language: 'Language' }
const mayCheck = computed(() => session.may('sort'))
const panel = ref<HTMLElement | null>(null)
const current = computed(() => data.value?.to_check[0])
const labels = ref<Label[]>([])
const { problem, isBusy: isSaving, attempt } = useAttempt(refetch)
watch(
  () => current.value?.id,
  () => {
    const read: readonly string[] = current.value?.reads_as ?? []
    labels.value = LABELS.filter((l) => read.includes(l))
  },
  { immediate: true },
)
const toggle = (n: number): void => {
  const label = LABELS[n]
  if (!label || !current.value) return
  labels.value = labels.value.includes(label) ? labels.value.filter((l) => l !== label) : [...labels.value, label]
}
async function check(): Promise<void> {
  const one = current.value
  if (!one || isSaving.value) return
  await attempt(() =>
    take(
      api.POST('/api/workspaces/{workspace_id}/reading/checks', {
        params: { path: { workspace_id: props.workspaceId } },
        body: { message_id: one.id, labels: labels.value },
      }),
    ),
  )
}
useKeys(
  {
    '1': () => toggle(0),
    '2': () => toggle(1),
    '3': () => toggle(2),
    '4': () => toggle(3),
    '5': () => toggle(4),
    y: () => void check(),
  },
  panel,
)
</script>

<template>
  <section class="mb-8" aria-labelledby="reading-title">
    <h2 id="reading-title" class="font-name text-lg font-bold">How well messages are read here</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Counted on a few messages of each week, drawn by chance, that one of you has looked at. A reading is a hint;
      correct one with C on the desk.
    </p>
    <LoadState :of="ask">
      <template v-if="data">
        <div
          v-if="current && mayCheck"
          ref="panel"
          tabindex="0"
          class="mb-4 rounded-md border border-rule bg-raised px-4 py-3"
          aria-label="Look at this week's sample"
          data-test="sample">
          <p class="mb-1 flex justify-between text-xs text-ink-2">
            <span>{{ data.to_check.length }} of {{ data.sample }} messages of the last week to look at</span>
            <span>keys work while this box has the focus</span>
          </p>
          <p class="mb-2 break-words whitespace-pre-wrap" dir="auto">
            <b class="text-xs">{{ current.person_name }}:</b> {{ current.body }}
          </p>
          <div class="flex flex-wrap items-center gap-1.5" role="group" aria-label="What it is">
            <button
              v-for="(label, n) in LABELS"
              :key="label"
              type="button"
              class="rounded-full border px-2.5 py-0.5"
              :class="
                labels.includes(label)
                  ? 'border-pine bg-pine-wash font-semibold text-pine'
                  : 'border-rule bg-sheet hover:bg-fold'
              "
              :aria-pressed="labels.includes(label)"
              @click="toggle(n)">
              {{ READS_AS[label] }} <KeyCap :keys="String(n + 1)" />
            </button>
            <button
              type="button"
              class="ml-auto rounded bg-pine px-3 py-0.5 font-semibold text-on-pine"
              :disabled="isSaving"
              data-test="check"
              @click="check">
              {{ labels.length ? 'It is ' + sayReads(labels) : 'It is none of these' }} <KeyCap keys="Y" />
            </button>
          </div>
          <p v-if="problem" role="alert" class="mt-1 text-brick">{{ problem }}</p>
        </div>
        <p v-else-if="data.sample && !current" class="mb-3 text-[0.8125rem]" data-test="all-checked">
          All {{ data.sample }} of the last week's sample have been looked at.
        </p>
        <table v-if="data.looked_at" class="mb-2 w-full rounded-md border border-rule bg-sheet text-left">
          <caption class="mb-1 text-left text-[0.8125rem] text-ink-2">
            {{
              data.looked_at
            }}
            messages looked at in the last twelve weeks; a share, and between what it lies in 95 of 100 such samples
          </caption>
          <thead class="text-[0.8125rem] text-ink-2">
            <tr class="[&>th]:px-4 [&>th]:py-1.5">
              <th>Reading</th>
              <th class="text-right">Read so, and right</th>
              <th class="text-right">So, and found</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="l in data.labels" :key="l.label" class="border-t border-rule-soft [&>td]:px-4 [&>td]:py-1.5">
              <td class="font-semibold">{{ READS_AS[l.label] }}</td>
              <td class="text-right">{{ sayShare(l.right) }}</td>
              <td class="text-right">{{ sayShare(l.found) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-else class="mb-2 text-[0.8125rem]">Nobody has looked at any yet, so nothing can be said of it.</p>
        <OwnReading :own="data.own" :workspace-id="workspaceId" @changed="refetch" />
        <p v-if="data.corrected.length" class="mb-1 text-[0.8125rem]">
          Corrected besides:
          {{ data.corrected.map((c) => `${WORDS[c.field]?.toLowerCase()} ${c.times} times`).join(', ') }}.
        </p>
        <ul v-if="data.latest.length" class="text-[0.8125rem]">
          <li v-for="c in data.latest.slice(0, 5)" :key="c.message_id + c.field" class="py-0.5">
            {{ sayTime(c.at, session.workspace?.time_zone ?? 'UTC') }} {{ sayMember(c.member_id) }}:
            {{ WORDS[c.field]?.toLowerCase() }} {{ c.was || 'none' }} to {{ c.now || 'none' }},
            <RouterLink
              class="underline"
              :to="{
                name: 'desk',
                params: { workspace: String(workspaceId), conversation: String(c.conversation_id) },
              }"
              >“{{ c.body }}”</RouterLink
            >
          </li>
        </ul>
      </template>
    </LoadState>
  </section>
</template>
