<script setup lang="ts">
/** Conditions of which all, any or none must hold; groups stand in groups. */
import type { RuleGroup, RulePart } from '@/api/types'
import PickMenu from '@/components/ui/PickMenu.vue'
import { makePart, PART_WORDS } from '@/lib/rules'
import ConditionLine from './ConditionLine.vue'

const group = defineModel<RuleGroup>({ required: true })
defineProps<{ inner?: boolean }>()
const choices = Object.entries(PART_WORDS).map(([value, text]) => ({ value, text }))
const parts = (): RulePart[] => (group.value.parts ?? []) as RulePart[]
const change = (next: RulePart[]): void => {
  group.value = { ...group.value, parts: next } as RuleGroup
}
const put = (n: number, part: RulePart): void => change(parts().map((p, at) => (at === n ? part : p)))
</script>

<template>
  <div class="grid gap-1.5" :class="inner ? 'rounded border border-dashed border-rule p-2' : ''">
    <label class="text-[0.8125rem] text-ink-2"
      ><select
        v-model="group.of"
        class="rounded border border-rule bg-raised px-1 py-0.5 font-semibold text-ink"
        aria-label="How many must hold">
        <option value="all">All</option>
        <option value="any">Any</option>
        <option value="none">None</option>
      </select>
      of these must hold<template v-if="!parts().length && !inner"
        >; without any, every message meets the rule</template
      ></label
    >
    <div v-for="(part, n) in parts()" :key="n" class="flex items-start gap-2" :data-part="part.type">
      <ConditionGroup
        v-if="part.type === 'group'"
        :model-value="part"
        inner
        class="flex-1"
        @update:model-value="(g: RuleGroup) => put(n, g as RulePart)" />
      <ConditionLine v-else class="flex-1" :model-value="part" @update:model-value="(p: RulePart) => put(n, p)" />
      <button
        type="button"
        class="px-1 text-[0.8125rem] text-ink-2 underline"
        :aria-label="`Take out: ${PART_WORDS[String(part.type)]}`"
        @click="change(parts().filter((_, at) => at !== n))">
        Take out
      </button>
    </div>
    <PickMenu
      label="Add a condition"
      :choices="choices"
      data-test="add-condition"
      @pick="(type) => change([...parts(), makePart(type) as RulePart])"
      >Add a condition ▾</PickMenu
    >
  </div>
</template>
