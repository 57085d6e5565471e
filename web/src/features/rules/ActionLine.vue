<script setup lang="ts">
/** One thing a rule does, with the fields it needs. */
import { computed } from 'vue'
import type { RuleAction } from '@/api/types'
import MultiPick from '@/components/ui/MultiPick.vue'
import { LANGUAGES, sayLanguage } from '@/lib/filters'
import { ACTION_WORDS } from '@/lib/rules'
import { PARKING, PRIORITIES, SETTLED } from '@/lib/words'
import { useNames } from './useNames'

const action = defineModel<RuleAction>({ required: true })
const { directory, offeredTags, members } = useNames()
const set = (changes: Record<string, unknown>): void => {
  action.value = { ...action.value, ...changes } as RuleAction
}
const tags = computed(() => offeredTags.value.map((t) => ({ value: t.id, text: t.name })))
const people = computed(() => (members.value ?? []).map((m) => ({ value: m.id, text: m.name })))
const saved = computed(() =>
  (directory.value?.saved_replies ?? []).filter(
    (r) => !r.archived || (action.value.type === 'reply' && action.value.saved === r.id),
  ),
)
const answerWith = (id: string): void => set(id ? { saved: Number(id), text: '' } : { saved: null })
const text = (event: Event): string => (event.target as HTMLInputElement | HTMLTextAreaElement).value
const field = 'rounded border border-rule bg-raised px-1.5 py-0.5'
function give(value: string): void {
  const [kind, id] = value.split(':')
  set({ team: kind === 'team' ? Number(id) : null, member: kind === 'member' ? Number(id) : null })
}
const owner = computed(() =>
  action.value.type !== 'assign'
    ? ''
    : action.value.team != null
      ? `team:${action.value.team}`
      : action.value.member != null
        ? `member:${action.value.member}`
        : '',
)
</script>

<template>
  <div class="flex flex-wrap items-center gap-1.5 text-[0.8125rem]">
    <b class="min-w-24">{{ ACTION_WORDS[String(action.type)] }}</b>
    <select
      v-if="action.type === 'priority'"
      :value="action.priority"
      :class="field"
      aria-label="Priority"
      @change="set({ priority: Number(text($event)) })">
      <option v-for="(word, n) in PRIORITIES" :key="n" :value="n">{{ word }}</option>
    </select>
    <template v-else-if="action.type === 'tag'">
      <MultiPick
        label="Tags"
        :choices="tags"
        :model-value="action.tags"
        @update:model-value="(v) => set({ tags: v })" />
      on
      <select
        :value="action.person ? 'person' : 'it'"
        :class="field"
        aria-label="Tag what"
        @change="set({ person: text($event) === 'person' })">
        <option value="it">the conversation</option>
        <option value="person">the person</option>
      </select>
    </template>
    <select
      v-else-if="action.type === 'assign'"
      :value="owner"
      :class="field"
      aria-label="To whom"
      @change="give(text($event))">
      <option value="" disabled>Choose …</option>
      <optgroup label="A team, which chooses">
        <option v-for="t in directory?.teams ?? []" :key="t.id" :value="`team:${t.id}`">{{ t.name }}</option>
      </optgroup>
      <optgroup label="A member">
        <option v-for="m in members ?? []" :key="m.id" :value="`member:${m.id}`">{{ m.name }}</option>
      </optgroup>
    </select>
    <div v-else-if="action.type === 'reply'" class="min-w-64 flex-1">
      <select
        :value="action.saved ?? ''"
        :class="[field, 'mb-1']"
        aria-label="Answer with"
        data-test="rule-saved"
        @change="answerWith(text($event))">
        <option value="">with this text</option>
        <optgroup v-if="saved.length" label="a saved reply">
          <option v-for="r in saved" :key="r.id" :value="r.id">{{ r.name }}</option>
        </optgroup>
      </select>
      <textarea
        v-if="action.saved == null"
        :value="action.text"
        rows="2"
        maxlength="2000"
        spellcheck="true"
        lang="en"
        :class="[field, 'w-full']"
        aria-label="Text of the answer"
        data-test="rule-reply"
        @input="set({ text: text($event) })" />
      <label class="flex items-center gap-1.5"
        ><input
          type="checkbox"
          class="accent-pine"
          data-test="rule-offer"
          :checked="action.offer ?? false"
          @change="set({ offer: ($event.target as HTMLInputElement).checked })" />Only offer it: whoever has the
        conversation sends it with one key, or not</label
      >
      <p v-if="!action.offer" class="text-xs text-ink-2">
        {first name}, {account} and {link:name} are filled in; {first name|there} says “there” where no name is known.
        It waits for the time in which a reply can be called back, and anybody can stop it. At most once a conversation
        and once a day a person, over all rules; never after one of us has answered, nor while one is writing.
      </p>
      <label v-if="action.saved == null" class="mt-1 flex items-center gap-1.5"
        >Written for
        <select
          :value="action.language ?? ''"
          :class="field"
          data-test="rule-language"
          @change="set({ language: text($event) || null })">
          <option value="">the language of its words</option>
          <option value="any">any language</option>
          <option v-for="l in LANGUAGES" :key="l" :value="l">{{ sayLanguage(l) }}</option>
        </select></label
      >
      <label v-if="!action.offer" class="flex items-center gap-1.5"
        ><input
          type="checkbox"
          class="accent-pine"
          :checked="!action.answers"
          @change="set({ answers: !($event.target as HTMLInputElement).checked })" />It only acknowledges: somebody
        still has to answer</label
      >
    </div>
    <select
      v-else-if="action.type === 'settle'"
      :value="action.how"
      :class="field"
      aria-label="Settle as"
      @change="set({ how: text($event) })">
      <option v-for="how in ['no_reply_needed', 'answered', 'junk']" :key="how" :value="how">{{ SETTLED[how] }}</option>
    </select>
    <select
      v-else-if="action.type === 'hand_over'"
      :value="action.desk || ''"
      :class="field"
      aria-label="To which desk"
      @change="set({ desk: Number(text($event)) })">
      <option value="" disabled>Choose …</option>
      <option v-for="d in directory?.desks ?? []" :key="d.id" :value="d.id">{{ d.name }}</option>
    </select>
    <select
      v-else-if="action.type === 'park'"
      :value="action.choice"
      :class="field"
      aria-label="Park until"
      @change="set({ choice: text($event) })">
      <option v-for="[key, word] in PARKING" :key="key" :value="key">{{ word }}</option>
    </select>
    <MultiPick
      v-else-if="action.type === 'watch' || action.type === 'alert'"
      label="Members"
      :choices="people"
      :model-value="action.members"
      @update:model-value="(v) => set({ members: v })" />
    <span v-else-if="action.type === 'hide'" class="text-ink-2">and list it for review in the morning</span>
    <span v-else-if="action.type === 'bring_back'" class="text-ink-2"
      >a settled conversation they only give thanks for waits for an answer all the same</span
    >
    <span v-else-if="action.type === 'stop'" class="text-ink-2">no rule further down is read</span>
  </div>
</template>
