<script setup lang="ts">
/** One condition with the fields it needs. */
import { computed } from 'vue'
import type { RulePart } from '@/api/types'
import MultiPick from '@/components/ui/MultiPick.vue'
import { LANGUAGES, READS_AS, sayLanguage } from '@/lib/filters'
import { PART_WORDS, sayClock, WEEKDAYS } from '@/lib/rules'
import { KINDS } from '@/lib/words'
import { usePosts } from '@/composables/usePosts'
import { useNames } from './useNames'
import SurenessPick from './SurenessPick.vue'
import WordsField from './WordsField.vue'

const part = defineModel<RulePart>({ required: true })
const { directory, offeredTags, accounts, names, byNetwork } = useNames()
const { posts, byPost, sayPost } = usePosts()
/** The part with one field changed. */
const set = (changes: Record<string, unknown>): void => {
  part.value = { ...part.value, ...changes } as RulePart
}
const pairs = (of: Record<string, string>) => Object.entries(of).map(([value, text]) => ({ value, text }))
const kinds = pairs(KINDS)
const readings = pairs(READS_AS)
const languages = LANGUAGES.map((value) => ({ value, text: sayLanguage(value) }))
const networks = computed(() => [...byNetwork.value.values()].map((n) => ({ value: n.network, text: n.name })))
const places = computed(() => (accounts.value ?? []).map((a) => ({ value: a.id, text: names.value.account(a.id) })))
const groups = computed(() => (directory.value?.groups ?? []).map((g) => ({ value: g.id, text: g.name })))
const tags = computed(() => offeredTags.value.map((t) => ({ value: t.id, text: t.name })))
const days = WEEKDAYS.map((text, value) => ({ value, text }))
const minutes = (clock: string): number => Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3, 5))
const number = (event: Event): number | null =>
  (event.target as HTMLInputElement).value === '' ? null : Number((event.target as HTMLInputElement).value)
const text = (event: Event): string => (event.target as HTMLInputElement).value
const field = 'rounded border border-rule bg-raised px-1.5 py-0.5'
</script>

<template>
  <div class="flex flex-wrap items-center gap-1.5 text-[0.8125rem]">
    <b class="min-w-24">{{ PART_WORDS[String(part.type)] }}</b>
    <template v-if="part.type === 'words'">
      <select :value="part.mode" :class="field" aria-label="Any, all or none" @change="set({ mode: text($event) })">
        <option value="any">any of</option>
        <option value="all">all of</option>
        <option value="none">none of</option>
      </select>
      <WordsField :model-value="part.words" @update:model-value="(words) => set({ words })" />
    </template>
    <MultiPick
      v-else-if="part.type === 'kind'"
      label="Kinds"
      :choices="kinds"
      :model-value="part.kinds"
      @update:model-value="(v) => set({ kinds: v })" />
    <template v-else-if="part.type === 'account'">
      <MultiPick
        label="Accounts"
        empty="no single account"
        :choices="places"
        :model-value="part.accounts ?? []"
        @update:model-value="(v) => set({ accounts: v })" />
      or
      <MultiPick
        label="Account groups"
        empty="no group"
        :choices="groups"
        :model-value="part.groups ?? []"
        @update:model-value="(v) => set({ groups: v })" />
    </template>
    <MultiPick
      v-else-if="part.type === 'network'"
      label="Networks"
      :choices="networks"
      :model-value="part.networks"
      @update:model-value="(v) => set({ networks: v })" />
    <template v-else-if="part.type === 'reads_as'">
      <MultiPick
        label="Reads as"
        :choices="readings"
        :model-value="part.reads_as"
        @update:model-value="(v) => set({ reads_as: v })" />
      <SurenessPick :model-value="part.sureness ?? null" @update:model-value="(sureness) => set({ sureness })" />
    </template>
    <template v-else-if="part.type === 'sentiment'">
      at least
      <input
        type="number"
        step="0.05"
        min="-1"
        max="1"
        :class="[field, 'w-20']"
        :value="part.at_least"
        aria-label="Sentiment at least"
        @change="set({ at_least: number($event) })" />
      at most
      <input
        type="number"
        step="0.05"
        min="-1"
        max="1"
        :class="[field, 'w-20']"
        :value="part.at_most"
        aria-label="Sentiment at most"
        @change="set({ at_most: number($event) })" />
      <SurenessPick :model-value="part.sureness ?? null" @update:model-value="(sureness) => set({ sureness })" />
    </template>
    <template v-else-if="part.type === 'bare_mention'">
      at most
      <input
        type="number"
        min="0"
        max="500"
        :class="[field, 'w-16']"
        :value="part.at_most"
        aria-label="Other characters"
        @change="set({ at_most: number($event) ?? 30 })" />
      other characters, none of
      <WordsField :model-value="part.none_of ?? []" @update:model-value="(none_of) => set({ none_of })" />
    </template>
    <MultiPick
      v-else-if="part.type === 'language'"
      label="Languages"
      :choices="languages"
      :model-value="part.languages"
      @update:model-value="(v) => set({ languages: v })" />
    <template v-else-if="part.type === 'rating'"
      >at most
      <input
        type="number"
        min="1"
        max="5"
        :class="[field, 'w-14']"
        :value="part.at_most"
        aria-label="Stars at most"
        @change="set({ at_most: number($event) ?? 1 })" />
      stars</template
    >
    <select
      v-else-if="part.type === 'carries'"
      :value="part.what"
      :class="field"
      aria-label="What it has"
      @change="set({ what: text($event) })">
      <option value="link">a link</option>
      <option value="attachment">an attachment</option>
    </select>
    <MultiPick
      v-else-if="part.type === 'person_tag'"
      label="Tags of the person"
      :choices="tags"
      :model-value="part.tags"
      @update:model-value="(v) => set({ tags: v })" />
    <template v-else-if="part.type === 'reach' || part.type === 'standing'"
      >at least
      <input
        type="number"
        min="0"
        max="100"
        :class="[field, 'w-16']"
        :value="part.at_least"
        :aria-label="`${PART_WORDS[part.type]} at least`"
        @change="set({ at_least: number($event) ?? 0 })" />
      of 100</template
    >
    <select
      v-else-if="part.type === 'hours'"
      :value="part.inside ? 'in' : 'out'"
      :class="field"
      aria-label="Within or outside"
      @change="set({ inside: text($event) === 'in' })">
      <option value="in">within working hours</option>
      <option value="out">outside working hours</option>
    </select>
    <template v-else-if="part.type === 'window'">
      <MultiPick
        label="Weekdays"
        :choices="days"
        :model-value="part.days"
        @update:model-value="(v) => set({ days: v })" />
      from
      <input
        type="time"
        :class="field"
        :value="sayClock(part.starts)"
        aria-label="From"
        @change="set({ starts: minutes(text($event)) })" />
      to
      <input
        type="time"
        :class="field"
        :value="sayClock(part.ends)"
        aria-label="To"
        @change="set({ ends: minutes(text($event)) })" />
    </template>
    <select
      v-else-if="part.type === 'post'"
      :value="part.post || ''"
      :class="[field, 'max-w-96']"
      aria-label="Under which post"
      data-test="under-post"
      @change="set({ post: Number(text($event)) })">
      <option value="" disabled>Choose …</option>
      <option v-if="part.post && !byPost.has(part.post)" :value="part.post">{{ names.post(part.post) }}</option>
      <option v-for="p in posts ?? []" :key="p.id" :value="p.id">
        {{ sayPost(p) }}, {{ byNetwork.get(p.network)?.name }}
      </option>
    </select>
  </div>
</template>
