<script setup lang="ts">
/** The conversation as a script, the post on top; follows what is said unless one has scrolled up. */
import { computed, nextTick, ref, watch } from 'vue'
import type { CameBack, Message, Moderation, Sheet } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'
import LinkedCard from './LinkedCard.vue'
import PostCard from './PostCard.vue'
import ScriptLine from './ScriptLine.vue'

const props = defineProps<{
  sheet: Sheet
  zone: string
  seenSeq: number
  isHolding: boolean
  maySort: boolean
  mayModerate: boolean
}>()
defineEmits<{
  again: [message: Message, back: CameBack]
  undo: [seq: number]
  thread: []
  open: [id: number]
  moderate: [message: Message, what: Moderation]
  correct: [message: Message]
  translate: [message: Message]
}>()
const { byNetwork } = useDirectory()
const box = ref<HTMLElement | null>(null)

const newMessages = computed(() => {
  const fresh = props.isHolding
    ? props.sheet.trail.filter((e) => e.kind === 'arrived' || e.kind === 'edited' || e.kind === 'replied')
    : []
  return new Set(fresh.filter((e) => e.seq > props.seenSeq).map((e) => e.data.message))
})

/** The act in the trail by which an answer of ours can still be called back, by its message. */
const undoOf = computed(
  () =>
    new Map(
      props.sheet.trail
        .filter((e) => e.kind === 'replied')
        .filter((e) => e.is_act && e.undo_obstacle === null)
        .map((e) => [e.data.message, e.seq]),
    ),
)

async function toEnd(): Promise<void> {
  await nextTick()
  if (box.value) box.value.scrollTop = box.value.scrollHeight
}
watch(
  [() => props.sheet.conversation.id, () => props.sheet.messages.length],
  ([id], before) => {
    // Measuring lays the page out, which is saved where it does not matter.
    const isAtEnd = (el: HTMLElement): boolean => el.scrollHeight - el.scrollTop - el.clientHeight < 120
    if (id !== before?.[0] || !box.value || isAtEnd(box.value)) void toEnd()
  },
  { immediate: true },
)
</script>

<template>
  <div
    ref="box"
    class="min-h-0 flex-1 scroll-quiet overflow-y-auto px-5 pt-3 squeezed:flex-none squeezed:overflow-visible"
    tabindex="0"
    aria-label="What was said"
    role="region"
    data-test="script">
    <p
      v-if="sheet.conversation.erased_at"
      class="mb-3 rounded bg-fold px-3 py-2 text-[0.8125rem] text-ink-2"
      data-test="erased">
      What was said here was erased {{ sayTime(sheet.conversation.erased_at, zone) }}, at this person’s wish. When it
      was said, by which side and how long it waited stays, for reports.
    </p>
    <p v-if="sheet.account.paused_reason" class="mb-3 rounded bg-honey-wash px-3 py-2 text-[0.8125rem] text-honey-ink">
      Replies from {{ sheet.account.name }} wait: {{ sheet.account.paused_reason }} An Owner can give it a new token in
      Setup.
    </p>
    <PostCard
      v-if="sheet.post"
      :post="sheet.post"
      :zone="zone"
      :network-name="byNetwork.get(sheet.conversation.network)?.name ?? ''"
      @thread="$emit('thread')" />
    <LinkedCard
      v-for="l in sheet.linked.filter((one) => one.public)"
      :key="l.id"
      :linked="l"
      :zone="zone"
      @open="$emit('open', l.id)" />
    <ScriptLine
      v-for="m in sheet.messages"
      :key="m.id"
      :message="m"
      :zone="zone"
      :is-new="newMessages.has(m.id)"
      :is-erased="Boolean(sheet.conversation.erased_at)"
      :sent-as="
        m.inbound || m.account_id === sheet.account.id
          ? undefined
          : sheet.senders.find((s) => s.id === m.account_id)?.name
      "
      :network-name="byNetwork.get(sheet.conversation.network)?.name ?? ''"
      :may-sort="maySort"
      :may-moderate="mayModerate"
      :undo-seq="undoOf.get(m.id)"
      @again="$emit('again', m, $event)"
      @undo="(seq) => $emit('undo', seq)"
      @moderate="(what) => $emit('moderate', m, what)"
      @correct="$emit('correct', m)"
      @translate="$emit('translate', m)" />
    <LinkedCard
      v-for="l in sheet.linked.filter((one) => !one.public)"
      :key="l.id"
      :linked="l"
      :zone="zone"
      @open="$emit('open', l.id)" />
    <p
      v-if="sheet.conversation.thanked && sheet.conversation.settled_as"
      class="mb-3 text-[0.8125rem] text-ink-2"
      data-test="thanked">
      They thanked you: it stays settled. Bring it back if it needs an answer all the same.
    </p>
  </div>
</template>
