<script setup lang="ts">
/** The open conversation: who it is and what can be done, what was said, the answer, and the margin. */
import { computed, nextTick, ref } from 'vue'
import type { Act, CameBack, Message, Moderation, Present, ReplyMode, Sheet } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import Composer from './Composer.vue'
import LeftStrip from './LeftStrip.vue'
import MarginPane from './MarginPane.vue'
import OfferStrip from './OfferStrip.vue'
import SheetHead from './SheetHead.vue'
import SheetScript from './SheetScript.vue'
import { findLeft } from './left'
import type { ComposerState } from './useComposer'
import type { Offer } from './useOffer'
import type { SheetState } from './useSheet'

const props = defineProps<{
  workspaceId: number
  sheet: Sheet
  state: SheetState
  composer: ComposerState
  offer: Offer | null
  isSeen: boolean
  opening: string
  zone: string
  me: number
  present: Present[]
  mayAct: boolean
  mayModerate: boolean
  mayAsk: boolean
  canTranslate: boolean
}>()
const emit = defineEmits<{
  back: []
  open: [id: number]
  act: [body: Act, words: string]
  acts: [each: [body: Act, words: string][]]
  undo: [seq: number]
  thread: []
  moderate: [message: Message, what: Moderation]
  /** Null is the last of theirs. */
  correct: [message: Message | null]
  translate: [message: Message]
  block: []
  ask: []
  leave: []
  sent: [settled: boolean, mode: ReplyMode]
}>()
const { sayMember } = useDirectory()
const isMarginOpen = ref(false)
const head = ref<InstanceType<typeof SheetHead> | null>(null)
const margin = ref<InstanceType<typeof MarginPane> | null>(null)
const pen = ref<InstanceType<typeof Composer> | null>(null)

/** Words that are dragged go where they are dropped; files may be dropped anywhere on the sheet. */
const allowFiles = (event: DragEvent): void => {
  if (event.dataTransfer?.types.includes('Files')) event.preventDefault()
}
const left = computed(() => findLeft(props.sheet, sayMember))
/** To the newest of what colleagues have left, in the margin. */
async function showLeft(): Promise<void> {
  isMarginOpen.value = true
  await nextTick()
  margin.value?.showLeft()
}
/** The answer that a rule offers goes into its mode; words that stand there are kept below it. Whether it stands there alone. */
async function putOffer(): Promise<boolean> {
  const one = props.offer
  if (!one) return false
  const which: ReplyMode = one.public ? 'public' : 'private'
  await pen.value?.choose(which)
  if (props.composer.mode.value !== which) return false
  const isAlone = props.composer.text.value.trim() === ''
  if (isAlone && one.saved !== null) props.composer.insert({ id: one.saved, text: one.text })
  else props.composer.restoreTo(which, { text: one.text })
  return isAlone
}
async function sendOffer(): Promise<void> {
  const which: ReplyMode = props.offer?.public ? 'public' : 'private'
  if ((await putOffer()) && (await props.composer.send(false))) emit('sent', false, which)
}
/** A colleague's shown words go into the mode they were written in, and the caret with them. */
async function takeOn(mode: ReplyMode, back: CameBack): Promise<void> {
  isMarginOpen.value = false
  await pen.value?.choose(mode)
  if (props.composer.mode.value !== mode) return
  props.composer.restoreTo(mode, back)
  pen.value?.focus()
}
defineExpose({ head, pen, sendOffer })
</script>

<template>
  <section
    class="relative grid min-h-0 min-w-0 grid-cols-1 bg-sheet xl:grid-cols-[minmax(0,1fr)_16.5rem]"
    :class="isSeen ? '' : 'opacity-45 grayscale'"
    :aria-label="isSeen ? 'Conversation' : `Opening ${opening}`"
    :aria-busy="!isSeen"
    :inert="!isSeen"
    :data-sheet="sheet.conversation.id"
    @dragover="allowFiles"
    @drop="pen?.takeFiles($event)"
    @paste="pen?.takeFiles($event)">
    <p
      v-if="!isSeen"
      class="absolute inset-x-0 top-1/3 z-10 text-center font-name text-lg font-bold text-ink"
      role="status">
      Opening {{ opening }} …
    </p>
    <div
      class="min-h-0 min-w-0 flex-col border-r border-rule-soft squeezed:overflow-y-auto"
      :class="isMarginOpen ? 'hidden xl:flex' : 'flex'">
      <div class="flex shrink-0 gap-3 border-b border-rule-soft px-5 py-1 text-[0.8125rem] xl:hidden">
        <button type="button" class="font-semibold text-pine underline md:hidden" @click="emit('back')">Queue</button>
        <button type="button" class="ml-auto font-semibold text-pine underline" @click="isMarginOpen = true">
          Margin
        </button>
      </div>
      <SheetHead
        ref="head"
        :sheet="state.foreseen.value ?? sheet"
        :is-coming="state.isComing.value"
        :zone="zone"
        :me="me"
        :may-sort="mayAct"
        :present="present"
        @act="(body, words) => emit('act', body, words)"
        @acts="(each) => emit('acts', each)" />
      <SheetScript
        :sheet="sheet"
        :zone="zone"
        :seen-seq="state.seenSeq.value"
        :is-holding="state.isHolding.value"
        :may-sort="mayAct"
        :may-moderate="mayModerate"
        @again="(m, back) => composer.restoreTo(m.public ? 'public' : 'private', back)"
        @undo="(seq) => emit('undo', seq)"
        @thread="emit('thread')"
        @open="(id) => emit('open', id)"
        @moderate="(...asked) => emit('moderate', ...asked)"
        @correct="(m) => emit('correct', m)"
        @translate="(m) => emit('translate', m)" />
      <OfferStrip
        v-if="offer && mayAct"
        :offer="offer"
        :is-sending="composer.isSending.value"
        @send="sendOffer"
        @change="putOffer" />
      <LeftStrip v-if="left" :left="left" :zone="zone" @show="showLeft" />
      <Composer
        ref="pen"
        :composer="composer"
        :workspace-id="workspaceId"
        :sheet="sheet"
        :may-sort="mayAct"
        :person-name="sheet.conversation.person_name"
        :can-translate="canTranslate"
        :zone="zone"
        :me="me"
        @leave="emit('leave')"
        @sent="(settled, mode) => emit('sent', settled, mode)" />
    </div>
    <div class="min-h-0 flex-col" :class="isMarginOpen ? 'flex' : 'hidden xl:flex'">
      <button
        type="button"
        class="border-b border-rule-soft px-5 py-1 text-left text-[0.8125rem] font-semibold text-pine underline xl:hidden"
        @click="isMarginOpen = false">
        Back to the conversation
      </button>
      <MarginPane
        ref="margin"
        :workspace-id="workspaceId"
        :sheet="sheet"
        :zone="zone"
        :may-moderate="mayModerate"
        :may-sort="mayAct"
        :may-ask="mayAsk"
        :me="me"
        @open="(id) => emit('open', id)"
        @block="emit('block')"
        @again="takeOn"
        @undo="(seq) => emit('undo', seq)"
        @ask="emit('ask')"
        @correct="emit('correct', null)" />
    </div>
  </section>
</template>
