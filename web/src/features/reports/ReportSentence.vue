<script setup lang="ts">
/** What a report is about, as a sentence whose parts are its filters. */
import { computed, ref } from 'vue'
import MultiPick from '@/components/ui/MultiPick.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import {
  AGAINST,
  COUNTING,
  PERIODS,
  type Against,
  type Counting,
  type Narrowed,
  type Period,
  type ReportAddress,
} from '@/lib/reports'
import type { Choice } from './useReport'

const props = defineProps<{
  address: ReportAddress
  first: string | undefined
  last: string | undefined
  choices: Record<Narrowed, Choice[]>
}>()
const emit = defineEmits<{ set: [change: Partial<ReportAddress>]; narrow: [name: Narrowed, values: string[]] }>()
const EVERY: [Narrowed, string, string][] = [
  ['account', 'Accounts', 'every account'],
  ['member', 'Members', 'everybody'],
  ['team', 'Teams', 'every team'],
  ['kind', 'Kinds', 'all kinds'],
  ['tag', 'Tags', 'all tags'],
  ['priority', 'Priorities', 'every priority'],
]
/** Asked for more seldom: each stands in the sentence once it is chosen. */
const MORE: [Narrowed, string, string][] = [
  ['group', 'Account groups', 'every account group'],
  ['network', 'Networks', 'every network'],
  ['sentiment', 'Sentiments', 'however it sounds'],
  ['language', 'Languages', 'every language'],
  ['person_tag', 'Tags of people', 'whatever tag people have'],
]
const added = ref<Narrowed[]>([])
const more = computed(() =>
  MORE.filter(
    ([name]) => props.choices[name].length && (props.address.narrowed[name]?.length || added.value.includes(name)),
  ),
)
const rest = computed(() => MORE.filter((one) => props.choices[one[0]].length && !more.value.includes(one)))
const list = <T extends string>(of: readonly (readonly [T, string])[]) => of.map(([value, text]) => ({ value, text }))
const say = <T extends string>(of: readonly (readonly [T, string])[], value: T): string =>
  of.find(([key]) => key === value)?.[1] ?? value

function setPeriod(period: Period): void {
  // Exact dates begin as the days that are shown.
  if (period === 'exact' && props.first && props.last) emit('set', { period, since: props.first, until: props.last })
  else emit('set', { period })
}
const setDay = (which: 'since' | 'until', day: string): void => {
  if (day) emit('set', { [which]: day })
}
</script>

<template>
  <div class="flex flex-wrap items-center gap-x-1.5 gap-y-1 text-[0.9375rem]" data-test="sentence">
    <PickMenu class="-ml-2" label="Period" plain :choices="list(PERIODS)" @pick="(p: Period) => setPeriod(p)"
      ><span class="border-b-[1.5px] border-ink-2 text-[0.9375rem]">{{ say(PERIODS, address.period) }}</span></PickMenu
    >
    <template v-if="address.period === 'exact'">
      <label
        >from
        <input
          type="date"
          class="rounded border border-rule bg-raised px-1.5 py-0.5 text-[0.8125rem]"
          :value="address.since"
          :max="address.until"
          aria-label="First day"
          @change="(e) => setDay('since', (e.target as HTMLInputElement).value)"
      /></label>
      <label
        >to
        <input
          type="date"
          class="rounded border border-rule bg-raised px-1.5 py-0.5 text-[0.8125rem]"
          :value="address.until"
          :min="address.since"
          aria-label="Last day"
          @change="(e) => setDay('until', (e.target as HTMLInputElement).value)"
      /></label>
    </template>
    <span>against</span>
    <PickMenu label="Compared with" plain :choices="list(AGAINST)" @pick="(a: Against) => emit('set', { against: a })"
      ><span class="border-b-[1.5px] border-ink-2 text-[0.9375rem]">{{ say(AGAINST, address.against) }}</span></PickMenu
    >
    <MultiPick
      v-for="[name, label, empty] in [...EVERY, ...more]"
      :key="name"
      :label="label"
      :choices="choices[name]"
      :empty="empty"
      :model-value="address.narrowed[name] ?? []"
      @update:model-value="(values: string[]) => emit('narrow', name, values)" />
    <PickMenu
      label="Who could read it"
      :choices="[{ value: '', text: 'in public or private' }, ...choices.public]"
      @pick="(v: string) => emit('narrow', 'public', v ? [v] : [])"
      >{{ choices.public.find((c) => c.value === address.narrowed.public?.[0])?.text ?? 'in public or private' }}
      <span aria-hidden="true" class="text-ink-2">▾</span></PickMenu
    >
    <PickMenu
      v-if="rest.length"
      label="More filters"
      plain
      :choices="rest.map(([value, text]) => ({ value, text }))"
      @pick="(name: Narrowed) => added.push(name)"
      ><span class="text-[0.8125rem] text-pine underline">more</span></PickMenu
    >
    <span>in</span>
    <PickMenu label="Time" plain :choices="list(COUNTING)" @pick="(c: Counting) => emit('set', { clock: c })"
      ><span class="border-b-[1.5px] border-ink-2 text-[0.9375rem]">{{ say(COUNTING, address.clock) }}</span></PickMenu
    >
  </div>
</template>
