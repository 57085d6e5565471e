<script setup lang="ts">
/** One speech of the script: who and when in the gutter, the words in the column. */
import { computed } from 'vue'
import type { CameBack, Message, Moderation } from '@/api/types'
import FileChips from '@/components/ui/FileChips.vue'
import { useClock } from '@/composables/useClock'
import { useDirectory } from '@/composables/useDirectory'
import { sayLanguage, sayReads } from '@/lib/filters'
import { MODERATION, sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{
  message: Message
  zone: string
  isNew: boolean
  isErased: boolean
  networkName: string
  sentAs?: string | undefined
  maySort: boolean
  mayModerate: boolean
  undoSeq?: number | undefined
}>()
defineEmits<{
  undo: [seq: number]
  again: [back: CameBack]
  moderate: [what: Moderation]
  correct: []
  translate: []
}>()
const session = useSession()
const { sayMember, directory } = useDirectory()
/** Counts the seconds before an answer goes out; read by such lines only. */
const { now } = useClock(1000)
const mayTranslate = computed(
  () =>
    directory.value?.can_translate &&
    !props.isErased &&
    props.message.inbound &&
    !session.readsLanguage(props.message.language) &&
    !props.message.translations.length,
)

const speaker = computed(() => {
  if (props.message.inbound) return props.message.author_name?.split(' ')[0] ?? props.message.author_handle
  if (props.message.rule_id) return 'By rule'
  return props.message.member_id ? sayMember(props.message.member_id) : 'Our page'
})
/** What is offered on the network, and what it cannot do, whose reason stands in the tooltip and answers its key. */
const offered = computed(() => props.message.offered.filter((o) => o.obstacle === null))
const missing = computed(() => (props.message.inbound ? props.message.offered.filter((o) => o.obstacle !== null) : []))
const reading = computed(() => {
  const m = props.message
  if (!m.evidence) return ''
  return [
    m.reads_as?.[0] === 'not_sure' ? 'not sure what it is' : '',
    m.reads_as?.length && m.reads_as[0] !== 'not_sure' ? `reads as ${sayReads(m.reads_as)}` : '',
    m.tone === 'neutral' ? '' : (m.tone ?? ''),
    m.language ? sayLanguage(m.language) : '',
    m.evidence.bare_mention ? 'bare mention' : '',
  ]
    .filter(Boolean)
    .join(', ')
})
const audience = computed(() => (props.message.public ? 'public' : 'private'))
const delivery = computed(() => {
  const m = props.message
  switch (m.delivery) {
    case 'queued': {
      const left = Math.ceil((Date.parse(m.not_before ?? '') - now.value) / 1000)
      return left > 0 ? `Sending in ${left} s, ${audience.value}` : `Sending, ${audience.value}`
    }
    case 'sending':
      return `Sending, ${audience.value}`
    case 'waiting':
      return `Waiting, ${audience.value}`
    case 'delivered':
      return `Delivered, ${audience.value}`
    case 'refused':
      return 'Refused'
    case 'withdrawn':
      return 'Taken back before it went out'
    default:
      return `Written on the network itself, ${audience.value}`
  }
})
</script>

<template>
  <article
    class="grid grid-cols-[56px_minmax(0,1fr)] gap-2.5 py-2 md:grid-cols-[78px_minmax(0,1fr)] md:gap-3.5"
    :data-message="message.id">
    <div class="pt-0.5 text-right text-xs text-ink-2">
      <b class="block truncate text-[0.8125rem]" :class="message.inbound ? 'text-ink' : 'text-pine'">{{ speaker }}</b>
      <time :datetime="message.sent_at">{{ sayTime(message.sent_at, zone) }}</time>
    </div>
    <div
      :class="
        message.inbound
          ? ''
          : message.public
            ? 'border-l-[3px] border-pine pl-[11px]'
            : 'border-l-[3px] border-dashed border-plum pl-[11px]'
      ">
      <p
        class="max-w-[56ch] text-[0.9375rem] leading-normal break-words whitespace-pre-wrap"
        :class="{ 'line-through decoration-ink-3': message.removed_at || message.delivery === 'withdrawn' }"
        dir="auto">
        <template v-if="isErased"><i class="text-ink-2">Erased</i></template
        ><template v-else>{{ message.body }}</template>
      </p>
      <p
        v-for="t in message.translations"
        :key="t.what + t.language"
        class="mt-0.5 max-w-[56ch] border-l-2 border-rule pl-2 text-[0.875rem] break-words text-ink-2"
        dir="auto"
        data-test="translation">
        <span class="text-xs font-semibold">{{
          t.what === 'written'
            ? `Written in ${sayLanguage(t.language)}`
            : `In ${sayLanguage(t.language)}, by the ${t.engine}${t.rough ? ', roughly' : ''}`
        }}</span><br />{{ t.body }}
      </p>
      <p
        v-if="message.rating"
        class="order-first text-[0.8125rem] font-semibold"
        role="img"
        :aria-label="`${message.rating} of 5 stars`">
        {{ '★'.repeat(message.rating) }}{{ '☆'.repeat(5 - message.rating) }}
      </p>
      <FileChips v-if="message.attachments.length" class="mt-1" :files="message.attachments" />
      <p v-if="message.rule_id" class="mt-0.5 text-xs font-semibold text-ink-2" data-test="by-rule">
        Answered by the rule “{{ message.rule_name }}”
      </p>
      <p v-for="one in message.not_done" :key="one" class="mt-0.5 text-xs text-ink-2" data-test="not-done">{{ one }}</p>
      <p v-if="isNew" class="mt-1 text-xs font-semibold text-plum">New since you began to write</p>
      <p v-if="message.removed_at" class="mt-1 text-xs text-ink-2">
        {{ message.removed_by ? `Deleted on ${networkName} by ${sayMember(message.removed_by)}` : 'Removed outside' }}
        at {{ sayTime(message.removed_at, zone) }}; still readable here only
      </p>
      <p v-else-if="message.edited_at" class="mt-1 text-xs text-ink-2">
        Edited {{ sayTime(message.edited_at, zone) }}; the earlier text is in the trail
      </p>
      <p
        v-if="message.hidden || message.liked || message.reposted"
        class="mt-0.5 text-xs font-semibold text-pine"
        data-test="moderated">
        On {{ networkName }}:
        {{
          [message.liked && 'liked', message.hidden && 'hidden', message.reposted && 'reposted']
            .filter(Boolean)
            .join(', ')
        }}
      </p>
      <p v-if="message.inbound" class="mt-1 flex flex-wrap items-center gap-x-3 gap-y-0.5 text-[0.78125rem] text-ink-2">
        <button
          v-if="reading && maySort"
          type="button"
          class="hover:underline"
          title="Correct it (C)"
          data-test="reading"
          @click="$emit('correct')">
          {{ reading }}
        </button>
        <span v-else>{{ reading }}</span>
        <button
          v-if="mayTranslate"
          type="button"
          class="font-semibold text-pine hover:underline"
          data-test="translate"
          title="Translate (Q)"
          @click="$emit('translate')">
          Translate
        </button>
        <span
          v-if="mayModerate && (offered.length || missing.length) && !message.removed_at"
          class="inline-flex flex-wrap items-center gap-x-3 border-l border-rule pl-3"
          :aria-label="`On ${networkName}`"
          role="group">
          <button
            v-for="o in offered"
            :key="o.what"
            type="button"
            :title="`On ${networkName}`"
            class="font-semibold hover:underline"
            :class="o.what === 'delete' ? 'ml-4 text-brick' : 'text-pine'"
            :data-moderate="o.what"
            @click="$emit('moderate', o.what)">
            {{ MODERATION[o.what]?.word }}
          </button>
          <span v-if="missing.length" :title="missing.map((o) => o.obstacle).join(' ')" data-test="missing"
            >no {{ missing.map((o) => MODERATION[o.what]?.word.toLowerCase()).join(', ') }} here</span
          >
        </span>
      </p>
      <template v-if="!message.inbound">
        <p
          class="mt-1 text-[0.78125rem] font-semibold"
          :class="
            message.delivery === 'refused'
              ? 'text-brick'
              : message.delivery === 'waiting'
                ? 'text-honey'
                : message.public
                  ? 'text-pine'
                  : 'text-plum'
          "
          data-test="delivery">
          {{ delivery }}
        </p>
        <p v-if="sentAs" class="text-xs text-ink-2" data-test="sent-as">As {{ sentAs }}</p>
        <p
          v-if="message.stuck"
          class="mt-0.5 border-l-[3px] border-honey-line bg-honey-wash px-2 py-0.5 text-[0.78125rem] text-honey-ink"
          data-test="stuck">
          <b>Not out yet, since {{ sayTime(message.leaves_at ?? message.sent_at, zone) }}:</b> {{ message.stuck }} It
          goes out by itself once that is over; until then it is our move.
        </p>
        <p v-else-if="message.problem && message.delivery !== 'delivered'" class="text-xs text-ink-2">
          {{ message.problem }}<span v-if="message.delivery === 'waiting'"> It will be tried again by itself.</span>
        </p>
        <button
          v-if="undoSeq !== undefined && maySort"
          type="button"
          class="mt-1 mr-3 text-[0.78125rem] font-semibold text-pine underline"
          data-test="call-back"
          @click="$emit('undo', undoSeq)">
          Call it back
        </button>
        <button
          v-if="message.delivery === 'refused'"
          type="button"
          class="mt-1 text-[0.78125rem] font-semibold text-pine underline"
          @click="$emit('again', { text: message.body, attachments: message.attachments })">
          Write it again
        </button>
      </template>
    </div>
  </article>
</template>
