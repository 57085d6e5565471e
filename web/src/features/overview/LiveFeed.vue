<script setup lang="ts">
/** Everything that comes in, newest first, reactions and form entries included. */
import { ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { FeedItem } from '@/api/types'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import { useDirectory } from '@/composables/useDirectory'
import { useSoon } from '@/composables/useSoon'
import { KINDS, MOVE_WORDS, sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; zone: string }>()
const { byNetwork } = useDirectory()
const items = ref<FeedItem[]>([])
const { problem, attemptFor } = useAttempt()
const isThere = ref(false)
const ended = ref(false)
const PAGE = 40
const keyOf = (i: FeedItem): string => `${i.what} ${i.id} ${i.at} ${i.handle}`

/** Null where it failed, or where another workspace is looked at by now. */
async function fetchPage(before?: string): Promise<FeedItem[] | null> {
  const workspace = props.workspaceId
  const page = await attemptFor(() =>
    take(
      api.GET('/api/workspaces/{workspace_id}/feed', {
        params: { path: { workspace_id: workspace }, query: { limit: PAGE, ...(before ? { before } : {}) } },
      }),
    ),
  )
  return workspace === props.workspaceId ? page : null
}
async function load(): Promise<void> {
  const page = await fetchPage()
  if (!page) return
  isThere.value = true
  const fresh = new Set(page.map(keyOf))
  items.value = [...page, ...items.value.filter((i) => !fresh.has(keyOf(i)))].slice(0, 400)
}
async function more(): Promise<void> {
  const last = items.value.at(-1)
  if (!last) return
  const page = await fetchPage(last.at)
  if (!page) return
  ended.value = page.length < PAGE
  items.value.push(...page)
}
/** Something came in: look, but not more than once a second. */
const soon = useSoon(load, 1000)
defineExpose({ soon })
watch(
  () => props.workspaceId,
  () => ((items.value = []), (isThere.value = ended.value = false), void load()),
  { immediate: true },
)
</script>

<template>
  <aside class="flex min-h-0 flex-col border-rule bg-sheet lg:border-l" aria-label="Live feed">
    <h2 class="shrink-0 border-b border-rule-soft px-4 py-2.5 font-name text-[0.9375rem] font-bold">Coming in</h2>
    <p v-if="problem" role="alert" class="px-4 py-2 text-[0.8125rem] text-brick">{{ problem }}</p>
    <ol class="min-h-0 flex-1 scroll-quiet overflow-y-auto" aria-live="polite" tabindex="0" data-test="feed">
      <li v-for="i in items" :key="keyOf(i)" class="border-b border-rule-soft px-3 py-2 text-[0.8125rem]">
        <component
          :is="i.conversation_id ? RouterLink : 'div'"
          :to="{ name: 'desk', params: { workspace: String(workspaceId), conversation: String(i.conversation_id) } }"
          class="flex gap-2.5"
          :class="i.conversation_id ? 'hover:underline' : ''">
          <NetworkMark
            :letters="byNetwork.get(i.network)?.letters ?? ''"
            :name="byNetwork.get(i.network)?.name ?? ''"
            :is-private="!i.public" />
          <span class="min-w-0 flex-1">
            <span class="flex items-baseline gap-1.5"
              ><b class="truncate">{{ i.name }}</b
              ><span class="whitespace-nowrap text-ink-2"
                >{{ i.what === 'reaction' ? 'liked' : KINDS[i.kind]
                }}<template v-if="i.rating"> {{ '★'.repeat(i.rating) }}{{ '☆'.repeat(5 - i.rating) }}</template></span
              ><time class="ml-auto text-xs whitespace-nowrap text-ink-2" :datetime="i.at">{{
                sayTime(i.at, zone)
              }}</time></span
            >
            <span class="line-clamp-2 break-words" dir="auto" :class="i.what === 'reaction' ? 'text-ink-2' : ''">{{
              i.words
            }}</span>
            <span v-if="i.move" class="text-xs text-ink-2">{{ MOVE_WORDS[i.move] }}</span>
          </span>
        </component>
      </li>
      <li v-if="isThere && !items.length" class="px-4 py-6 text-center text-[0.8125rem] text-ink-2">
        Nothing has come in yet.
      </li>
      <li v-if="items.length >= PAGE && !ended" class="p-3 text-center">
        <button type="button" class="text-[0.8125rem] font-semibold text-pine underline" @click="more">Earlier</button>
      </li>
    </ol>
  </aside>
</template>
