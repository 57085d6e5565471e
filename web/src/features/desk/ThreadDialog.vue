<script setup lang="ts">
/** Everything under a post, in order, replies under what they answer; the person's own lines stand out. */
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { Thread } from '@/api/types'
import { useFocusBack } from '@/composables/useFocusBack'
import { useDirectory } from '@/composables/useDirectory'
import { MOVE_WORDS, sayTime } from '@/lib/words'

useFocusBack()
const props = defineProps<{ workspaceId: number; postId: number; personId: number; zone: string; mayDraw: boolean }>()
const emit = defineEmits<{ close: []; open: [conversation: number] }>()
const { sayMember } = useDirectory()
const thread = ref<Thread | null>(null)
const { problem, attempt } = useAttempt()
watch(
  () => props.postId,
  (post) =>
    attempt(async () => {
      thread.value = await take(
        api.GET('/api/workspaces/{workspace_id}/posts/{post_id}/thread', {
          params: { path: { workspace_id: props.workspaceId, post_id: post } },
        }),
      )
    }),
  { immediate: true },
)
type Line = Thread['messages'][number] & { depth: number; isAnswered: boolean }
/** In the order of time, but each reply right under what it answers. */
const lines = computed<Line[]>(() => {
  const all = thread.value?.messages ?? []
  const under = new Map<number | null, Thread['messages']>()
  for (const m of all) under.set(m.parent_id, [...(under.get(m.parent_id) ?? []), m])
  const out: Line[] = []
  const walk = (parent: number | null, depth: number): void => {
    for (const m of under.get(parent) ?? []) {
      out.push({ ...m, depth, isAnswered: (under.get(m.id) ?? []).some((r) => !r.inbound && !r.removed_at) })
      walk(m.id, depth + 1)
    }
  }
  walk(null, 0)
  return out
})
</script>

<template>
  <Dialog open class="relative z-40" @close="emit('close')">
    <div class="fixed inset-0 bg-band/40" aria-hidden="true" />
    <div class="fixed inset-0 flex justify-end">
      <DialogPanel class="flex h-full w-full max-w-2xl flex-col bg-sheet shadow-xl" data-test="thread">
        <header class="border-b border-rule px-6 py-4">
          <DialogTitle class="font-name text-lg font-bold">{{ thread?.post.title || 'The whole thread' }}</DialogTitle>
          <p class="line-clamp-3 text-ink-2">{{ thread?.post.body }}</p>
          <p class="mt-1 text-xs text-ink-2">
            {{ lines.length }} messages, {{ lines.filter((l) => l.isAnswered).length }} answered. Choose one to answer
            it.
          </p>
          <p class="mt-1 flex gap-4 text-[0.8125rem] font-semibold">
            <button type="button" class="text-pine underline" @click="emit('close')">Back to the conversation</button
            ><RouterLink
              v-if="mayDraw"
              class="text-pine underline"
              :to="{ name: 'draws', params: { workspace: String(workspaceId) }, query: { post: String(postId) } }"
              >Draw a prize among them</RouterLink
            >
          </p>
        </header>
        <p v-if="problem" role="alert" class="px-6 py-3 text-brick">{{ problem }}</p>
        <ol
          class="min-h-0 flex-1 scroll-quiet overflow-y-auto px-6 py-3"
          tabindex="0"
          aria-label="Messages of the thread">
          <li
            v-for="m in lines"
            :key="m.id"
            class="mb-1"
            :data-mine="m.person_id === personId"
            :style="{ marginLeft: `${Math.min(m.depth, 4) * 22}px` }">
            <button
              type="button"
              class="grid w-full grid-cols-[92px_minmax(0,1fr)] gap-3 rounded px-2 py-1 text-left hover:bg-fold"
              :class="m.inbound && m.person_id === personId ? 'bg-sky-wash' : ''"
              @click="emit('open', m.conversation_id)">
              <span class="text-right text-xs text-ink-2"
                ><b class="block truncate text-[0.8125rem]" :class="m.inbound ? 'text-ink' : 'text-pine'">{{
                  m.inbound ? m.author_name : m.member_id ? sayMember(m.member_id) : 'Our page'
                }}</b
                >{{ sayTime(m.sent_at, zone) }}</span
              >
              <span :class="m.inbound ? '' : 'border-l-[3px] border-pine pl-2.5'">
                <span class="break-words whitespace-pre-wrap" :class="m.removed_at ? 'line-through' : ''" dir="auto">{{
                  m.body
                }}</span>
                <span class="block text-xs text-ink-2"
                  ><b v-if="m.isAnswered" class="text-pine">answered</b
                  ><template v-else-if="m.inbound">{{ MOVE_WORDS[m.move] }}</template
                  ><template v-if="m.hidden">, hidden</template><template v-if="m.liked">, liked</template
                  ><template v-if="m.edited_at">, edited</template></span
                >
              </span>
            </button>
          </li>
        </ol>
      </DialogPanel>
    </div>
  </Dialog>
</template>
