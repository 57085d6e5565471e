<script setup lang="ts">
import { Eye, Images, Paperclip } from '@lucide/vue'
import { computed, nextTick, ref, toRef, watch } from 'vue'
import type { LibraryFile, OfferedReply, ReplyMode, Sheet } from '@/api/types'
import { useKeyRouter, useKeys } from '@/composables/useKeys'
import KeyCap from '@/components/ui/KeyCap.vue'
import { announce } from '@/lib/announcer'
import { sayLanguage } from '@/lib/filters'
import WhenDialog from '@/components/ui/WhenDialog.vue'
import LaterStrip from './LaterStrip.vue'
import MentionList from './MentionList.vue'
import { listOften } from './later'
import EmojiButton from './EmojiButton.vue'
import FileChips from '@/components/ui/FileChips.vue'
import ReplyPicker from './ReplyPicker.vue'
import type { ComposerState } from './useComposer'
import { INKS, MODES, NAMES } from './modes'
import LibraryPicker from './LibraryPicker.vue'
import ModeChoice from './ModeChoice.vue'
import { useMentions } from './useMentions'
import { useSavedReplies } from './useSavedReplies'
import { useSession } from '@/stores/session'

const props = defineProps<{
  composer: ComposerState
  workspaceId: number
  sheet: Sheet
  maySort: boolean
  personName: string
  canTranslate: boolean
  zone: string
  me: number
}>()
const emit = defineEmits<{ sent: [settled: boolean, mode: ReplyMode]; leave: [] }>()
const area = ref<HTMLTextAreaElement | null>(null)
const panel = ref<HTMLElement | null>(null)
const keyRouter = useKeyRouter()
/** A mode that was asked for and is not possible here: said for as long as one has not gone on. */
const impossible = ref<ReplyMode | null>(null)

const {
  needs,
  asks,
  text,
  mode,
  current,
  length,
  isSendable,
  isTooLong,
  hasNews,
  problem,
  isSending,
  written,
  theirLanguage,
  shared,
  attachments,
  sender,
  pads,
  unfilled,
  others,
  elsewhere,
  carriedFrom,
  isUnkept,
  signOff,
} = props.composer
const session = useSession()
const { files, coming, problem: fileProblem } = attachments
/** A public reply can come from another account of the network; which one is always said. */
const senders = computed(() => (mode.value === 'public' && props.sheet.senders.length > 1 ? props.sheet.senders : []))
function chooseSender(account: number): void {
  sender.value = account
  props.composer.onType()
}
const otherSender = computed(() =>
  senders.value.length
    ? props.sheet.senders.find((s) => s.id === sender.value && s.id !== props.sheet.account.id)
    : undefined,
)
/** Where files can go along: not into a note, and not on every network. */
const mayAttach = computed(() => props.sheet.can_attach && mode.value !== 'note')
const chooser = ref<HTMLInputElement | null>(null)
/** Files that were dropped or pasted anywhere on the sheet; where none can go along, that is said. */
function takeFiles(event: DragEvent | ClipboardEvent): void {
  const carried = event instanceof DragEvent ? event.dataTransfer : event.clipboardData
  const list = carried?.files
  // A table that is copied comes as words and as a picture of them: the words are meant.
  if (!list?.length || !props.maySort || carried?.getData('text/plain')) return
  event.preventDefault()
  if (mayAttach.value) void attachments.add([...list])
  else
    fileProblem.value =
      mode.value === 'note' ? 'No file goes along with a team note.' : 'No file can go along with an answer here.'
}
function onChosen(): void {
  const list = chooser.value?.files
  if (list?.length) void attachments.add([...list])
  if (chooser.value) chooser.value.value = ''
}
const isPickingKept = ref(false)
async function pickKept(one: LibraryFile): Promise<void> {
  isPickingKept.value = false
  void attachments.addKept(one)
  // The dialog gives the focus back to its button; whoever chose goes on writing.
  await nextTick()
  area.value?.focus()
}
const keptOnes = computed(() => MODES.map(([m]) => m).filter((m) => pads.value[m].body.trim() !== ''))
const ink = computed(() => INKS[mode.value])
const obstacleOf = (key: ReplyMode): string | null =>
  key === 'note' ? null : (props.composer.modes.value.find((m) => m.mode === key)?.obstacle ?? null)
const obstacle = computed(() => obstacleOf(mode.value))
const each = <T,>(of: (key: ReplyMode) => T): Record<ReplyMode, T> => ({
  public: of('public'),
  private: of('private'),
  note: of('note'),
})
const obstacles = computed(() => each(obstacleOf))
const saysOf = computed(() =>
  each((key) =>
    key === 'note' ? 'Only we can read this' : (props.composer.modes.value.find((m) => m.mode === key)?.readers ?? ''),
  ),
)
const says = computed(() => saysOf.value[mode.value])

async function choose(key: ReplyMode): Promise<void> {
  impossible.value = obstacleOf(key) === null ? null : key
  if (impossible.value) {
    // Whoever pressed the key goes on writing: these letters are words and no acts.
    keyRouter.swallowLetters()
    return
  }
  mode.value = key
  // At once, so that what is typed right after the key is not taken for more keys; again when it was not there yet.
  area.value?.focus()
  await nextTick()
  area.value?.focus()
}
const { offered, suggested } = useSavedReplies(
  toRef(props, 'workspaceId'),
  toRef(props, 'sheet'),
  toRef(props, 'maySort'),
)
/** Where a saved reply goes: what is between the two is replaced by it. */
const picking = ref<[from: number, until: number] | null>(null)
function openPicker(isTyped = false): void {
  const at = area.value?.selectionEnd ?? text.value.length
  picking.value = [isTyped ? at - 1 : (area.value?.selectionStart ?? at), at]
}
/** '/' at the start of a word asks for a saved reply. */
function onInput(event: Event): void {
  props.composer.onType()
  const at = area.value?.selectionEnd ?? 0
  if ((event as InputEvent).data === '/' && mode.value !== 'note' && /(^|\s)\/$/.test(text.value.slice(0, at)))
    openPicker(true)
}
async function insert(one: OfferedReply, [from, until]: [number, number]): Promise<void> {
  picking.value = null
  await nextTick()
  const { text: words, end } = props.composer.lay(one, from, until)
  put(words, end)
}
/** Words put in as if they were typed, so that Ctrl Z takes them back. */
function put(words: string, end: number): void {
  const field = area.value
  field?.focus()
  field?.select()
  // The one way there is into a field's own history; where a browser has it no more, the words stand all the same.
  if (!field || !document.execCommand('insertText', false, words)) {
    text.value = words
    props.composer.onType()
  }
  field?.setSelectionRange(end, end)
}
/** Where the cursor stands; the words around it stay. */
function addEmoji(emoji: string): void {
  const at = area.value?.selectionEnd ?? text.value.length
  put(text.value.slice(0, at) + emoji + text.value.slice(at), at + emoji.length)
}
const mentions = useMentions(
  area,
  text,
  () => mode.value === 'note',
  () => props.composer.onType(),
)
function suggest(n: number): void {
  const one = suggested.value[n]
  if (one && mode.value !== 'note') void insert(one, [area.value?.selectionStart ?? 0, area.value?.selectionEnd ?? 0])
}
async function carry(from: ReplyMode): Promise<void> {
  props.composer.carryOver(from)
  await nextTick()
  area.value?.focus()
}
async function send(settle: boolean, sendAt?: string): Promise<void> {
  const sentAs = mode.value
  isTiming.value = false
  if (await props.composer.send(settle, sendAt)) emit('sent', settle, sentAs)
}
const isTiming = ref(false)
/** Whether sending settles, as the workspace has it; the other is the other button's, and one key away. A note settles nothing. */
const settlesFirst = computed(() => mode.value !== 'note' && session.workspace?.send_settles === true)
const SENDS = { public: 'Send publicly', private: 'Send privately', note: 'Add note' }
const mainWords = computed(
  () => (asks.value ? 'Ask for approval' : SENDS[mode.value]) + (settlesFirst.value ? ', settle' : ''),
)
useKeys(
  {
    'alt+1': () => suggest(0),
    'alt+2': () => suggest(1),
    'alt+3': () => suggest(2),
    'ctrl+Enter': () => void send(settlesFirst.value),
    'ctrl+shift+Enter': () => void send(!settlesFirst.value),
    Escape: () => emit('leave'),
  },
  panel,
)
watch([() => props.sheet.conversation.id, mode], () => (impossible.value = null))
/** What the field's reader is told besides its name: what stands before and behind, and how much fits. */
const describedBy = computed(() =>
  mode.value === 'note'
    ? undefined
    : [current.value?.front ? 'composer-front' : '', 'composer-length', signOff.value.trim() ? 'composer-sign-off' : '']
        .filter(Boolean)
        .join(' '),
)
/** As the limit nears it is said, at each of these and not at every letter. */
const NEAR = [40, 20, 10, 0]
const room = computed(() => (mode.value === 'note' ? Infinity : (current.value?.limit ?? Infinity) - length.value))
const nearest = computed(() => NEAR.findLast((n) => room.value <= n))
watch(nearest, (now, was) => {
  if (now === undefined || (was !== undefined && now > was)) return
  announce(room.value < 0 ? `${-room.value} too many` : `${room.value} characters left`)
})
defineExpose({ choose, takeFiles, focus: () => area.value?.focus() })
</script>

<template>
  <LaterStrip
    v-if="sheet.scheduled"
    :scheduled="sheet.scheduled"
    :zone="zone"
    :me="me"
    :problem="problem"
    @change="composer.reschedule"
    @cancel="composer.unschedule" />
  <section
    v-if="!maySort && keptOnes.length"
    class="mx-2 mb-2 shrink-0 rounded-lg border border-rule bg-raised px-3 py-2 text-[0.8125rem] md:mx-5 md:mb-3.5"
    aria-label="Your words"
    data-test="kept-words">
    <p class="text-ink-2">
      Your role here may not answer any more. What you wrote is kept, for you alone{{
        keptOnes.some((m) => pads[m].shared) ? ' and whom you showed it' : ''
      }}:
    </p>
    <p v-for="m in keptOnes" :key="m" class="mt-1 break-words whitespace-pre-wrap">
      <b class="text-xs">{{ NAMES[m] }}:</b> {{ pads[m].body }}
    </p>
  </section>
  <section
    v-if="maySort"
    ref="panel"
    class="mx-2 mb-2 shrink-0 rounded-lg border-[1.5px] bg-raised md:mx-5 md:mb-3.5"
    :class="ink.frame"
    aria-label="Answer"
    data-test="answer">
    <ModeChoice :mode="mode" :says="saysOf" :obstacles="obstacles" @choose="choose" @turn="(key) => (mode = key)" />
    <p
      v-if="impossible"
      role="alert"
      class="border-b border-honey-line bg-honey-wash px-3 py-1.5 text-[0.8125rem] text-honey-ink"
      data-test="impossible">
      <b>{{ NAMES[impossible] }} is not possible here.</b> {{ obstacleOf(impossible) }} What you type now does nothing
      until you stop, or press Escape.
    </p>
    <div v-if="obstacle" class="px-3 py-2 text-[0.8125rem] text-ink-2">
      <p>{{ obstacle }}</p>
      <p v-if="text.trim()" class="mt-1 border-l-2 border-rule pl-2" data-test="kept-words">
        <b class="text-xs">Your words are kept here, for you alone{{ shared ? ' and whom you show them' : '' }}:</b>
        {{ text }}
      </p>
    </div>
    <template v-else>
      <div
        v-if="hasNews"
        role="alert"
        class="flex items-center gap-3 bg-plum-wash px-3 py-1.5 text-[0.8125rem] text-plum"
        data-test="moved-on">
        <span>The conversation moved on while you were writing. What is new is marked above; your words are kept.</span>
        <button type="button" class="ml-auto font-semibold whitespace-nowrap underline" @click="composer.acknowledge()">
          I have read it
        </button>
      </div>
      <p
        v-if="elsewhere[mode]"
        role="alert"
        class="flex flex-wrap items-baseline gap-x-3 bg-plum-wash px-3 py-1.5 text-[0.8125rem] text-plum"
        data-test="elsewhere">
        <span class="min-w-0"
          ><b>You wrote other words here in another tab or on another device:</b> “{{ elsewhere[mode]?.body }}”</span
        >
        <button type="button" class="font-semibold underline" @click="composer.choose('theirs')">Take those</button>
        <button type="button" class="font-semibold underline" @click="composer.choose('mine')">
          Keep what is here
        </button>
      </p>
      <p
        v-for="m in others"
        :key="m"
        class="flex items-baseline gap-2 border-b border-rule-soft px-3 py-1 text-[0.8125rem] text-ink-2"
        data-test="carry">
        <span class="min-w-0 truncate">{{ NAMES[m] }} not sent: “{{ pads[m].body }}”</span>
        <button
          type="button"
          class="ml-auto font-semibold whitespace-nowrap underline"
          :class="ink.says"
          @click="carry(m)">
          Bring these words here
        </button>
      </p>
      <p
        v-if="carriedFrom"
        role="status"
        class="px-3 pt-1 text-[0.8125rem] font-semibold"
        :class="ink.says"
        data-test="carried">
        Brought over from the {{ NAMES[carriedFrom].toLowerCase() }}. {{ says }}.
      </p>
      <div class="flex px-3 pt-2 text-[0.9375rem] leading-[1.45]">
        <span
          v-if="mode !== 'note' && current?.front"
          id="composer-front"
          class="mr-1 shrink-0 font-semibold text-ink-2"
          title="The network wants the handle in front"
          >{{ current.front }}</span
        >
        <textarea
          ref="area"
          v-model="text"
          rows="3"
          class="w-full resize-none scroll-quiet bg-transparent focus:outline-none"
          :aria-label="mode === 'note' ? 'Team note' : mode === 'public' ? 'Public reply' : 'Private message'"
          :placeholder="
            mode === 'note' ? 'Write to your colleagues; @Name tells somebody …' : `Write to ${personName} …`
          "
          dir="auto"
          spellcheck="true"
          :lang="written?.into"
          data-test="composer"
          v-bind="mentions.says.value"
          @input="(onInput($event), mentions.look())"
          @click="mentions.look"
          :aria-describedby="describedBy" />
      </div>
      <p
        v-if="signOff.trim()"
        id="composer-sign-off"
        class="px-3 text-[0.9375rem] leading-[1.45] text-ink-2"
        :title="`Closes every answer of ${otherSender?.name ?? sheet.account.name}`"
        data-test="sign-off">
        {{ signOff.trim() }}
      </p>
      <MentionList v-if="mode === 'note'" :mentions="mentions" />
      <FileChips
        v-if="mode !== 'note' && (files.length || coming.length)"
        class="mx-3 pb-1"
        :files="files"
        :coming="coming"
        is-writing
        @remove="attachments.remove"
        @describe="attachments.describe" />
      <p v-if="fileProblem" role="alert" class="px-3 text-[0.8125rem] text-brick" data-test="file-problem">
        {{ fileProblem }}
      </p>
      <p
        v-if="mode !== 'note' && suggested.length && !text.trim()"
        class="mx-3 flex flex-wrap items-center gap-x-2 gap-y-1 pb-1 text-[0.8125rem]"
        data-test="suggested">
        <span class="text-xs text-ink-2">Answered so before:</span>
        <button
          v-for="(o, n) in suggested"
          :key="o.id"
          type="button"
          class="inline-flex max-w-64 items-center gap-1.5 rounded border border-rule bg-sheet px-1.5 py-px hover:bg-fold"
          :title="`${o.text}\n\nFits ${o.suggestion?.fits}. Answered “${o.suggestion?.like}”, ${Math.round((o.suggestion?.likeness ?? 0) * 100)} % like this`"
          @click="insert(o, [text.length, text.length])">
          <span class="truncate">{{ o.name }}</span>
          <span class="shrink-0 text-xs text-sky">fits {{ o.suggestion?.fits }}</span>
          <KeyCap :keys="`Alt ${n + 1}`" class="shrink-0" />
        </button>
      </p>
      <p
        v-if="written"
        class="mx-3 flex items-baseline gap-2 border-l-2 border-rule pl-2 text-[0.8125rem] text-ink-2"
        data-test="written">
        <span class="min-w-0"
          ><b class="text-xs">Written as{{ written.rough ? '; the translation is rough, look it over' : '' }}:</b>
          {{ written.text }}</span
        >
        <button type="button" class="ml-auto whitespace-nowrap underline" @click="composer.untranslate()">
          Use my own words
        </button>
      </p>
      <p
        v-if="needs.length"
        class="mx-3 border-l-[3px] border-honey-line bg-honey-wash px-2 py-0.5 text-[0.8125rem] text-honey-ink"
        data-test="needs">
        <b>Needs approval:</b> {{ needs.join(', ') }}
      </p>
      <p
        v-if="otherSender"
        class="mx-3 mb-1 border-l-[3px] border-pine bg-pine-wash px-2 py-0.5 text-[0.8125rem] text-pine"
        data-test="other-sender">
        <b>Goes out as {{ otherSender.name }}</b
        >, not as {{ sheet.account.name }}, which they spoke to.
      </p>
      <p v-if="unfilled.length" class="px-3 text-[0.8125rem] font-semibold text-brick" data-test="unfilled">
        Nothing fills in {{ unfilled.join(', ') }}: it does not go out so. Write it out, or take the braces away.
      </p>
      <p v-if="isUnkept" role="status" class="px-3 text-[0.8125rem] text-honey" data-test="unkept">
        Not on the server yet; kept on this device and sent there by itself.
      </p>
      <p v-if="problem" role="alert" class="px-3 text-[0.8125rem] text-brick" data-test="send-problem">{{ problem }}</p>
      <div class="flex flex-wrap items-center gap-x-2 gap-y-1 py-1.5 pr-2 pl-3 text-[0.8125rem] text-ink-2">
        <span v-if="mode !== 'note'" id="composer-length" :class="isTooLong ? 'font-semibold text-brick' : ''">
          {{ length.toLocaleString('en') }} of {{ current?.limit.toLocaleString('en') }}
        </span>
        <span v-else>Stays in the margin</span>
        <label v-if="senders.length" class="flex items-center gap-1"
          >as
          <select
            :value="sender ?? sheet.account.id"
            class="max-w-40 truncate rounded border border-rule bg-sheet px-1 py-px text-ink"
            data-test="sender"
            @change="chooseSender(Number(($event.target as HTMLSelectElement).value))">
            <option v-for="s in senders" :key="s.id" :value="s.id">
              {{ s.name }}{{ s.paused_reason ? ' (paused)' : '' }}
            </option>
          </select></label
        >
        <EmojiButton @pick="addEmoji" @close="area?.focus()" />
        <template v-if="mayAttach">
          <button
            type="button"
            class="rounded p-1 hover:bg-fold"
            aria-label="Add a file"
            title="Add a picture or a file; or paste or drop it"
            data-test="add-file"
            @click="chooser?.click()">
            <Paperclip :size="15" aria-hidden="true" />
          </button>
          <input
            ref="chooser"
            type="file"
            multiple
            class="hidden"
            accept="image/jpeg,image/png,image/gif,image/webp,application/pdf,text/plain,text/csv"
            aria-label="Files"
            data-test="choose-file"
            @change="onChosen" />
          <button
            type="button"
            class="rounded p-1 hover:bg-fold"
            aria-label="Add from the library"
            title="Add one of the workspace’s own pictures or files"
            data-test="pick-kept"
            @click="isPickingKept = true">
            <Images :size="15" aria-hidden="true" />
          </button>
        </template>
        <button
          v-if="mode !== 'note'"
          type="button"
          class="font-semibold whitespace-nowrap text-pine hover:underline"
          data-test="pick-reply"
          @click="openPicker()">
          Saved replies <KeyCap keys="/" />
        </button>
        <button
          v-if="canTranslate && theirLanguage && mode !== 'note' && !written"
          type="button"
          class="font-semibold text-pine hover:underline disabled:opacity-50"
          :disabled="!text.trim()"
          data-test="translate-reply"
          @click="composer.translate()">
          Into {{ sayLanguage(theirLanguage) }}
        </button>
        <label
          v-if="text.trim()"
          class="flex items-center gap-1"
          title="Show it: colleagues who open this see what you are writing"
          ><input
            type="checkbox"
            class="accent-pine"
            :checked="shared"
            data-test="share-draft"
            @change="composer.share(($event.target as HTMLInputElement).checked)" /><Eye
            :size="15"
            aria-hidden="true" /><span class="sr-only">Show it to colleagues</span></label
        >
        <div class="ml-auto flex gap-1.5">
          <button
            v-if="mode !== 'note' && !asks && !sheet.scheduled"
            type="button"
            class="rounded-[5px] px-2 py-1 text-[0.84375rem] font-semibold hover:bg-fold disabled:opacity-50"
            :class="ink.says"
            :disabled="!isSendable || isTooLong || isSending || unfilled.length > 0"
            data-test="send-later"
            @click="isTiming = true">
            Later
          </button>
          <button
            v-if="mode !== 'note' && !asks"
            type="button"
            class="rounded-[5px] border-[1.5px] border-current px-3 py-1 text-[0.84375rem] font-bold disabled:opacity-50"
            :class="ink.says"
            :disabled="!isSendable || isTooLong || isSending || unfilled.length > 0"
            title="Ctrl Shift Enter"
            data-test="send-other"
            @click="send(!settlesFirst)">
            {{ settlesFirst ? 'Send, keep open' : 'Send and settle' }}
          </button>
          <button
            type="button"
            class="rounded-[5px] px-3 py-1 text-[0.84375rem] font-bold disabled:opacity-50"
            :class="ink.button"
            :disabled="!isSendable || isTooLong || isSending || unfilled.length > 0"
            title="Ctrl Enter"
            data-test="send"
            @click="send(settlesFirst)">
            {{ mainWords }}
          </button>
        </div>
      </div>
      <WhenDialog
        :zone="zone"
        v-if="isTiming"
        title="Send it at"
        about="The conversation is parked until then. It is checked again at its time: it does not go if they write before."
        button="Send then"
        :often="listOften(zone)"
        @close="isTiming = false"
        @pick="(at) => send(settlesFirst, at)" />
      <LibraryPicker v-if="isPickingKept" :workspace-id="workspaceId" @close="isPickingKept = false" @pick="pickKept" />
      <ReplyPicker
        v-if="picking"
        :offered="offered"
        @close="((picking = null), area?.focus())"
        @pick="(one) => picking && insert(one, picking)" />
    </template>
  </section>
</template>
