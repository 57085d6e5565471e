<script setup lang="ts">
/** What rules hid, answered or settled since nobody looked: kept or brought back, one by one or all at once. */
import { useAsk } from '@/composables/useAsk'
import { computed, nextTick, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, ApiProblem, take } from '@/api/client'
import type { Review, ReviewItem } from '@/api/types'
import KeyCap from '@/components/ui/KeyCap.vue'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import { useDirectory } from '@/composables/useDirectory'
import { useKeys } from '@/composables/useKeys'
import { KINDS, MOVE_WORDS, sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; zone: string; mayDecide: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const { byNetwork } = useDirectory()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, refetch } = useAsk<Review>('What rules did', {
  key: () => ['review', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/review', { params: { path: path.value } })),
})
defineExpose({ refetch })
const router = useRouter()
const list = ref<HTMLElement | null>(null)
const problem = ref<string | null>(null)
const busy = ref(false)
const rules = computed(() => {
  const groups = new Map<number, { name: string; items: ReviewItem[] }>()
  for (const item of data.value?.items ?? [])
    groups.set(item.rule_id, { name: item.rule_name, items: [...(groups.get(item.rule_id)?.items ?? []), item] })
  return [...groups.values()]
})
const did = (i: ReviewItem): string =>
  [
    i.effects.includes('hide') &&
      (i.removed ? 'hid it; it has gone since' : i.hidden ? 'hid it' : 'hid it; shown again'),
    i.effects.includes('reply') && 'answered',
    i.effects.includes('settle') && 'settled it',
  ]
    .filter(Boolean)
    .join(', ')
const canShow = (i: ReviewItem): boolean =>
  (i.effects.includes('hide') && i.hidden) || (i.effects.includes('settle') && i.move === 'settled')

/** As they stand on the screen; the one that keys act on has the focus. */
const inOrder = computed(() => rules.value.flatMap((rule) => rule.items))
const currentId = ref<number | null>(null)
const current = computed(() => inOrder.value.find((i) => i.id === currentId.value) ?? null)
async function goTo(item: ReviewItem | undefined): Promise<void> {
  currentId.value = item?.id ?? null
  await nextTick()
  list.value?.querySelector<HTMLElement>(`[data-item="${item?.id}"]`)?.focus()
}
function walk(step: number): void {
  const at = inOrder.value.findIndex((i) => i.id === currentId.value)
  void goTo(inOrder.value[Math.min(inOrder.value.length - 1, Math.max(0, at + step))])
}
/** Decides on the current one; the next has its turn. */
async function decideCurrent(verdict: 'kept' | 'shown'): Promise<void> {
  const item = current.value
  if (!item || busy.value || !props.mayDecide || (verdict === 'shown' && !canShow(item))) return
  const at = inOrder.value.indexOf(item)
  const after = inOrder.value[at + 1] ?? inOrder.value[at - 1]
  await decide([item], verdict)
  await goTo(after)
}
/** What was left as it is, the latest last: each can be looked at again. */
const left = ref<ReviewItem[][]>([])
const leftLast = computed(() => left.value.at(-1) ?? null)
async function undo(): Promise<void> {
  const items = leftLast.value
  if (!items || busy.value) return
  await decide(items, 'again')
  await goTo(inOrder.value.find((i) => i.id === items[0]?.id))
}
function openCurrent(): void {
  if (current.value)
    void router.push({
      name: 'desk',
      params: { workspace: String(props.workspaceId), conversation: String(current.value.conversation_id) },
    })
}
useKeys({
  ArrowDown: () => walk(1),
  ArrowUp: () => walk(-1),
  k: () => void decideCurrent('kept'),
  b: () => void decideCurrent('shown'),
  o: openCurrent,
  z: () => void undo(),
})

async function decide(items: ReviewItem[], verdict: 'kept' | 'shown' | 'again'): Promise<void> {
  if (busy.value) return
  busy.value = true
  const done = new Set<number>()
  const refused = new Set<number>()
  try {
    problem.value = null
    for (let at = 0; at < items.length; at += 50) {
      const report = await take(
        api.POST('/api/workspaces/{workspace_id}/review', {
          params: { path: path.value },
          body: { ids: items.slice(at, at + 50).map((i) => i.id), verdict },
        }),
      )
      for (const one of report.done) done.add(one.id)
      for (const one of report.failed) refused.add(one.id)
      if (report.failed.length)
        problem.value = `${report.failed.length} were left as they were: ${[...new Set(report.failed.map((f) => f.reason))].join(' ')}`
    }
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    problem.value = error.message
  }
  const decided = items.filter((i) => done.has(i.id))
  if (verdict === 'kept' && decided.length) left.value.push(decided)
  // What was asked for and never heard stays where it can be asked for once more.
  if (verdict === 'again')
    left.value = left.value
      .map((was) => was.filter((i) => !done.has(i.id) && !refused.has(i.id)))
      .filter((was) => was.length)
  busy.value = false
  await refetch()
  emit('changed')
}
</script>

<template>
  <div ref="list" data-test="review">
    <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }}</p>
    <p v-if="mayDecide && data?.items.length" class="mb-3 flex flex-wrap gap-x-4 gap-y-1 text-[0.8125rem] text-ink-2">
      <span><KeyCap keys="↑ ↓" /> walk</span><span><KeyCap keys="K" /> leave as it is</span
      ><span><KeyCap keys="B" /> bring back</span><span><KeyCap keys="O" /> open</span>
    </p>
    <p v-if="leftLast" role="status" class="mb-2 text-[0.8125rem]" data-test="review-left">
      {{
        leftLast.length === 1 ? `${leftLast[0]?.person_name}: left as it is.` : `${leftLast.length} left as they are.`
      }}
      <button type="button" class="font-semibold text-pine underline" @click="undo">
        Look again <KeyCap keys="Z" />
      </button>
    </p>
    <p
      v-if="data && !data.items.length"
      class="rounded-md border border-rule bg-sheet px-4 py-10 text-center text-ink-2">
      Nothing waits to be looked at: what rules hid, answered or settled comes here.
    </p>
    <section v-for="rule in rules" :key="rule.name" class="mb-6">
      <header class="mb-1 flex flex-wrap items-baseline gap-3">
        <h2 class="font-name text-lg font-bold">{{ rule.name }}</h2>
        <span class="text-ink-2">{{ rule.items.length }}</span>
        <span v-if="mayDecide" class="ml-auto flex gap-2">
          <button
            type="button"
            :disabled="busy"
            class="rounded border border-rule bg-raised px-2.5 py-1 font-semibold hover:bg-fold"
            @click="decide(rule.items, 'kept')">
            Leave all as they are
          </button>
          <button
            v-if="rule.items.some(canShow)"
            type="button"
            :disabled="busy"
            class="rounded border border-pine px-2.5 py-1 font-semibold text-pine hover:bg-pine-wash"
            @click="decide(rule.items.filter(canShow), 'shown')">
            Bring all back
          </button>
        </span>
      </header>
      <ul class="rounded-md border border-rule bg-sheet">
        <li
          v-for="i in rule.items"
          :key="i.id"
          class="flex flex-wrap items-start gap-3 border-b border-rule-soft px-3 py-2 last:border-0 focus-visible:-outline-offset-2"
          :class="i.id === currentId ? 'bg-raised shadow-[inset_0_0_0_2px_var(--pine)]' : ''"
          :tabindex="i.id === (currentId ?? inOrder[0]?.id) ? 0 : -1"
          :aria-current="i.id === currentId ? 'true' : undefined"
          :data-item="i.id"
          data-test="review-item"
          @focus="currentId = i.id">
          <NetworkMark
            :letters="byNetwork.get(i.network)?.letters ?? ''"
            :name="byNetwork.get(i.network)?.name ?? ''"
            :is-private="!i.public" />
          <div class="min-w-48 flex-1">
            <p class="text-[0.8125rem]">
              <RouterLink
                class="font-bold hover:underline"
                :to="{
                  name: 'desk',
                  params: { workspace: String(workspaceId), conversation: String(i.conversation_id) },
                }"
                >{{ i.person_name }}</RouterLink
              >
              <span class="ml-1.5 text-ink-2"
                >{{ KINDS[i.kind] }}, {{ sayTime(i.at, zone) }}, now {{ MOVE_WORDS[i.move] }}</span
              >
            </p>
            <p class="line-clamp-2 break-words" dir="auto">{{ i.body }}</p>
            <p v-if="i.answer" class="border-l-[3px] border-pine pl-2 text-[0.8125rem] text-ink-2">{{ i.answer }}</p>
            <p class="text-xs text-ink-2">
              The rule {{ did(i)
              }}<template v-if="i.evidence.some((e) => e.words.length)"
                >, because of
                {{
                  i.evidence
                    .flatMap((e) => e.words)
                    .map((w) => `“${w}”`)
                    .join(', ')
                }}</template
              >
            </p>
          </div>
          <span v-if="mayDecide" class="flex gap-3 text-[0.8125rem]"
            ><button type="button" :disabled="busy" class="font-semibold hover:underline" @click="decide([i], 'kept')">
              Leave as it is</button
            ><button
              v-if="canShow(i)"
              type="button"
              :disabled="busy"
              class="font-semibold text-pine hover:underline"
              @click="decide([i], 'shown')">
              {{ i.effects.includes('hide') && i.hidden ? 'Show it again' : 'Bring it back' }}
            </button></span
          >
        </li>
      </ul>
    </section>
  </div>
</template>
