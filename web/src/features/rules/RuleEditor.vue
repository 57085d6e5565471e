<script setup lang="ts">
/** Writing a rule: its sentence stands above and changes as one writes. */
import { computed, onMounted, ref, watch } from 'vue'
import type { RuleAction, RuleBody, RuleGroup, RuleWarning } from '@/api/types'
import PickMenu from '@/components/ui/PickMenu.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { ACTION_WORDS, makeAction, sayDisagreements, sayWarning, type Names } from '@/lib/rules'
import ActionLine from './ActionLine.vue'
import ConditionGroup from './ConditionGroup.vue'
import RightLately from './RightLately.vue'
import RuleSentence from './RuleSentence.vue'

const props = defineProps<{
  names: Names
  isNew: boolean
  wasOn: boolean
  problem: string | null
  warnings: RuleWarning[]
  places: Map<number, number>
}>()
const emit = defineEmits<{ save: [on: boolean]; cancel: []; try: [] }>()
const body = defineModel<RuleBody>({ required: true })
const on = ref(props.wasOn)
watch(
  () => props.wasOn,
  (now) => (on.value = now),
)
/** The editor has the focus as soon as it stands there, and is brought into view by it. */
const first = ref<HTMLInputElement | null>(null)
onMounted(() => first.value?.focus())
const actions = Object.entries(ACTION_WORDS).map(([value, text]) => ({ value, text }))
const then = computed(() => body.value.then as RuleAction[])
const changeThen = (next: RuleAction[]): void => {
  body.value = { ...body.value, then: next } as RuleBody
}
</script>

<template>
  <form
    class="grid gap-3 rounded-md bg-raised p-4 shadow-[0_0_0_2px_var(--pine)]"
    data-test="rule-editor"
    @submit.prevent="emit('save', on)">
    <label class="text-xs font-semibold text-ink-2"
      >Name<input
        :value="body.name"
        required
        maxlength="80"
        class="mt-0.5 block w-full max-w-96 rounded border border-rule bg-sheet px-2 py-1 text-[0.875rem] font-normal text-ink"
        ref="first"
        data-test="rule-name"
        @input="body = { ...body, name: ($event.target as HTMLInputElement).value }"
    /></label>
    <RuleSentence :body="body" :names="names" data-test="rule-sentence" />
    <fieldset class="grid gap-1.5">
      <legend class="mb-1 text-xs font-semibold text-ink-2">When a message comes in</legend>
      <ConditionGroup
        :model-value="body.when as RuleGroup"
        @update:model-value="(when) => (body = { ...body, when } as RuleBody)" />
    </fieldset>
    <fieldset class="grid gap-1.5">
      <legend class="mb-1 text-xs font-semibold text-ink-2">Then</legend>
      <div v-for="(action, n) in then" :key="n" class="flex items-start gap-2" :data-action="action.type">
        <ActionLine
          class="flex-1"
          :model-value="action"
          @update:model-value="(a: RuleAction) => changeThen(then.map((b, at) => (at === n ? a : b)))" />
        <button
          type="button"
          class="px-1 text-[0.8125rem] text-ink-2 underline"
          :aria-label="`Take out: ${ACTION_WORDS[String(action.type)]}`"
          @click="changeThen(then.filter((_, at) => at !== n))">
          Take out
        </button>
      </div>
      <PickMenu
        label="Add what it does"
        :choices="actions"
        data-test="add-action"
        @pick="(type) => changeThen([...then, makeAction(type) as RuleAction])"
        >Add what it does ▾</PickMenu
      >
      <RightLately :body="body" />
    </fieldset>
    <p
      v-for="w in warnings.filter((one) => one.kind !== 'disagrees')"
      :key="w.kind + w.other + w.what"
      role="status"
      class="border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-1 text-[0.8125rem] text-honey-ink"
      data-test="draft-warning">
      {{ sayWarning(w, (id) => `rule ${places.get(id ?? 0) ?? ''}`) }}
    </p>
    <p
      v-if="warnings.some((one) => one.kind === 'disagrees')"
      role="status"
      class="text-[0.8125rem] text-ink-2"
      data-test="draft-disagrees">
      {{ sayDisagreements(warnings, (id) => `rule ${places.get(id ?? 0) ?? ''}`) }}
    </p>
    <p v-if="problem" role="alert" class="text-[0.8125rem] font-semibold text-brick" data-test="rule-problem">
      {{ problem }}
    </p>
    <div class="flex flex-wrap items-center gap-2">
      <UiButton kind="main" type="submit" data-test="save-rule">
        {{ isNew ? 'Add the rule' : 'Keep this change' }}
      </UiButton>
      <button
        type="button"
        class="rounded border border-pine px-3 py-1.5 font-bold text-pine hover:bg-pine-wash"
        data-test="try-rule"
        @click="emit('try')">
        Try it on the past
      </button>
      <UiButton @click="emit('cancel')">Cancel</UiButton>
      <label class="ml-auto flex items-center gap-1.5 text-[0.8125rem]"
        ><input v-model="on" type="checkbox" class="accent-pine" data-test="rule-on" />Switched on</label
      >
    </div>
  </form>
</template>
