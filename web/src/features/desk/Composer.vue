<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import type { ReplyMode } from '@/api/types'
import KeyCap from '@/components/ui/KeyCap.vue'
import type { ComposerState } from './useComposer'

const props = defineProps<{ composer: ComposerState; maySort: boolean; personName: string }>()
const emit = defineEmits<{ sent: [settled: boolean, mode: ReplyMode] }>()
const area = ref<HTMLTextAreaElement | null>(null)

const { text, mode, current, length, isTooLong, hasNews, problem, isSending } = props.composer
const TABS = [
  ['public', 'Public reply', 'R'],
  ['private', 'Private message', 'D'],
  ['note', 'Team note', 'N'],
] as const
const INKS: Record<ReplyMode, { frame: string; tab: string; says: string; button: string }> = {
  public: { frame: 'border-pine', tab: 'bg-pine-wash text-pine', says: 'text-pine', button: 'bg-pine text-on-pine' },
  private: { frame: 'border-dashed border-plum', tab: 'bg-plum-wash text-plum', says: 'text-plum', button: 'bg-plum text-sheet' },
  note: { frame: 'border-honey-line', tab: 'bg-honey-wash text-honey', says: 'text-honey', button: 'bg-honey text-sheet' },
}
const ink = computed(() => INKS[mode.value])
const obstacleOf = (key: ReplyMode): string | null =>
  key === 'note' ? null : (props.composer.modes.value.find((m) => m.mode === key)?.obstacle ?? null)
const obstacle = computed(() => obstacleOf(mode.value))
const says = computed(() => (mode.value === 'note' ? 'Only we can read this' : (current.value?.readers ?? '')))

async function choose(key: ReplyMode): Promise<void> {
  if (obstacleOf(key)) return
  mode.value = key
  if (text.value) props.composer.onType()
  // At once, so that what is typed right after the key is not taken for more keys; again when it was not there yet.
  area.value?.focus()
  await nextTick()
  area.value?.focus()
}
async function send(settle: boolean): Promise<void> {
  const sentAs = mode.value
  if (await props.composer.send(settle)) emit('sent', settle, sentAs)
}
defineExpose({ choose, focus: () => area.value?.focus() })
</script>

<template>
  <section v-if="maySort" class="mx-2 mb-2 md:mx-5 md:mb-3.5 shrink-0 rounded-lg border-[1.5px] bg-raised" :class="ink.frame" aria-label="Answer" data-test="answer">
    <div class="flex flex-wrap items-center border-b border-rule-soft text-[13px] lg:flex-nowrap" role="tablist" aria-label="Who can read it">
      <button
        v-for="[key, word, cap] in TABS"
        :id="`mode-${key}`"
        :key="key"
        type="button"
        role="tab"
        :aria-selected="mode === key"
        :aria-disabled="obstacleOf(key) !== null"
        :title="obstacleOf(key) ?? undefined"
        class="inline-flex items-center gap-1 px-2 py-1.5 font-semibold whitespace-nowrap first:rounded-tl-md"
        :class="[mode === key ? ink.tab : 'text-ink-2', obstacleOf(key) ? 'cursor-not-allowed line-through decoration-1' : 'hover:underline']"
        :data-mode="key"
        @click="choose(key)"
      >{{ word }} <KeyCap v-if="!obstacleOf(key)" :keys="cap" /></button>
      <span class="ml-auto truncate px-2 pb-1 text-xs lg:pb-0" :title="says" :class="ink.says" data-test="readers">{{ says }}</span>
    </div>
    <p v-if="obstacle" class="px-3 py-2 text-[13px] text-ink-2">{{ obstacle }}</p>
    <template v-else>
      <div v-if="hasNews" role="alert" class="flex items-center gap-3 bg-plum-wash px-3 py-1.5 text-[13px] text-plum" data-test="moved-on">
        <span>The conversation moved on while you were writing. What is new is marked above; your words are kept.</span>
        <button type="button" class="ml-auto font-semibold whitespace-nowrap underline" @click="composer.acknowledge()">I have read it</button>
      </div>
      <div class="flex px-3 pt-2 text-[15px] leading-[1.45]">
        <span v-if="mode !== 'note' && current?.front" class="mr-1 shrink-0 font-semibold text-ink-2" title="The network wants the handle in front">{{ current.front }}</span>
        <textarea
          ref="area"
          v-model="text"
          rows="3"
          class="scroll-quiet w-full resize-none bg-transparent focus:outline-none"
          :aria-label="mode === 'note' ? 'Team note' : mode === 'public' ? 'Public reply' : 'Private message'"
          :placeholder="mode === 'note' ? 'Write to your colleagues …' : `Write to ${personName} …`"
          dir="auto"
          data-test="composer"
          @input="composer.onType()"
          @keydown.ctrl.enter.exact.prevent="send(false)"
          @keydown.meta.enter.exact.prevent="send(false)"
          @keydown.ctrl.shift.enter.prevent="send(true)"
          @keydown.esc.stop="area?.blur()"
        />
      </div>
      <p v-if="problem" role="alert" class="px-3 text-[13px] text-brick" data-test="send-problem">{{ problem }}</p>
      <div class="flex items-center gap-3 py-1.5 pr-2 pl-3 text-[13px] text-ink-2">
        <span v-if="mode !== 'note'" :class="isTooLong ? 'font-semibold text-brick' : ''">
          {{ length.toLocaleString('en') }} of {{ current?.limit.toLocaleString('en') }}
        </span>
        <span v-else>Stays in the margin</span>
        <div class="ml-auto flex gap-1.5">
          <button
            v-if="mode !== 'note'"
            type="button"
            class="rounded-[5px] border-[1.5px] border-current px-3 py-1 text-[13.5px] font-bold disabled:opacity-50"
            :class="ink.says"
            :disabled="!text.trim() || isTooLong || isSending"
            title="Ctrl Shift Enter"
            @click="send(true)"
          >Send and settle</button>
          <button
            type="button"
            class="rounded-[5px] px-3 py-1 text-[13.5px] font-bold disabled:opacity-50"
            :class="ink.button"
            :disabled="!text.trim() || isTooLong || isSending"
            title="Ctrl Enter"
            data-test="send"
            @click="send(false)"
          >{{ mode === 'note' ? 'Add note' : mode === 'public' ? 'Send publicly' : 'Send privately' }}</button>
        </div>
      </div>
    </template>
  </section>
</template>
