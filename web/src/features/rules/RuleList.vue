<script setup lang="ts">
/** The rules in their order, as sentences; moved by drag or with Alt and the arrows. */
import { Switch } from '@headlessui/vue'
import { ref } from 'vue'
import type { Rules, RuleWarning, StoredRule } from '@/api/types'
import { useKeys } from '@/composables/useKeys'
import PickMenu from '@/components/ui/PickMenu.vue'
import { sayDisagreements, sayWarning, type Names } from '@/lib/rules'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'
import RuleSentence from './RuleSentence.vue'

const props = defineProps<{
  rules: Rules
  names: Names
  zone: string
  chosen: number | null
  mayChange: boolean
  sayMember: (id: number | null) => string
}>()
const emit = defineEmits<{
  choose: [id: number]
  toggle: [rule: StoredRule]
  answers: [rule: StoredRule]
  order: [ids: number[]]
  act: [what: 'edit' | 'copy' | 'remove' | 'versions', id: number]
}>()
const session = useSession()
const dragged = ref<number | null>(null)
const over = ref<number | null>(null)

function move(id: number, step: number): void {
  const ids = props.rules.rules.map((r) => r.id)
  const at = ids.indexOf(id)
  const to = at + step
  if (to < 0 || to >= ids.length) return
  ids.splice(at, 1)
  ids.splice(to, 0, id)
  emit('order', ids)
}
function drop(onto: number): void {
  const ids = props.rules.rules.map((r) => r.id)
  if (dragged.value !== null && dragged.value !== onto)
    move(dragged.value, ids.indexOf(onto) - ids.indexOf(dragged.value))
  dragged.value = over.value = null
}
const box = ref<HTMLElement | null>(null)
/** The rule whose name has the focus. */
function getFocused(): number | null {
  const name = document.activeElement?.closest('[data-rule-name]')
  const id = name?.closest<HTMLElement>('[data-rule]')?.dataset.rule
  return id === undefined ? null : Number(id)
}
function moveFocused(step: number): void {
  const id = getFocused()
  if (id !== null && props.mayChange) move(id, step)
}
function enter(): void {
  const id = getFocused()
  // Enter on another button of the row presses that.
  if (id === null) (document.activeElement as HTMLElement | null)?.click()
  else if (props.mayChange) emit('act', 'edit', id)
  else emit('choose', id)
}
useKeys({ 'alt+ArrowUp': () => moveFocused(-1), 'alt+ArrowDown': () => moveFocused(1), Enter: enter }, box)
const place = (id: number | null): string => {
  const at = props.rules.rules.findIndex((r) => r.id === id)
  return at < 0 ? 'another rule' : `rule ${at + 1}`
}
const warningsOf = (id: number): RuleWarning[] => props.rules.warnings.filter((w) => w.rule === id)
const choices = [
  { value: 'edit' as const, text: 'Change it', hint: 'Enter' },
  { value: 'copy' as const, text: 'Copy it' },
  { value: 'versions' as const, text: 'Its versions' },
  { value: 'remove' as const, text: 'Remove it' },
]
</script>

<template>
  <ol ref="box" class="border-b border-rule-soft" data-test="rules">
    <li
      v-for="(rule, n) in rules.rules"
      :key="rule.id"
      class="border-t border-rule-soft"
      :class="[
        chosen === rule.id ? 'rounded bg-raised shadow-[0_0_0_2px_var(--pine)]' : '',
        over === rule.id && dragged !== rule.id ? 'border-t-2 border-t-pine' : '',
      ]"
      :draggable="mayChange"
      :data-rule="rule.id"
      @dragstart="dragged = rule.id"
      @dragover.prevent="over = rule.id"
      @dragend="dragged = over = null"
      @drop.prevent="drop(rule.id)">
      <div
        class="grid grid-cols-[28px_minmax(0,1fr)] gap-x-3 gap-y-1 px-1.5 py-2.5 sm:grid-cols-[28px_minmax(0,1fr)_128px_auto]">
        <span
          class="text-right font-name text-[1.0625rem] leading-snug font-semibold text-ink-3"
          :title="mayChange ? 'Drag to another place, or Alt and the arrow keys' : ''"
          >{{ n + 1 }}</span
        >
        <button
          type="button"
          class="text-left"
          :aria-pressed="chosen === rule.id"
          @click="emit('choose', rule.id)"
          data-rule-name>
          <span class="text-xs font-semibold text-ink-2"
            ><span class="sr-only">Rule {{ n + 1 }}, </span>{{ rule.body.name }}</span
          >
          <RuleSentence :body="rule.body" :names="names" :quiet="!rule.switched_on" />
        </button>
        <p class="col-start-2 text-[0.78125rem] text-ink-2 sm:col-start-auto sm:text-right">
          <template v-if="rule.switched_on || rule.hits"
            ><RouterLink
              v-if="rule.hits"
              class="font-bold text-ink underline"
              :aria-label="`${rule.hits}: where “${rule.body.name}” was met`"
              :to="{
                name: 'desk',
                params: { workspace: String(session.workspaceId) },
                query: { move: 'any', rule: String(rule.id) },
              }"
              >{{ rule.hits }}</RouterLink
            ><b v-else class="text-ink">0</b> in {{ rules.days }} days<br class="hidden sm:block" />
            <template v-if="rule.last_at">last {{ sayTime(rule.last_at, zone) }}</template></template
          >
          <template v-if="!rule.switched_on"
            ><br v-if="rule.hits" />off since {{ sayTime(rule.changed_at, zone) }}</template
          >
        </p>
        <div class="col-start-2 flex items-start gap-1 sm:col-start-auto">
          <Switch
            :model-value="rule.switched_on"
            :disabled="!mayChange"
            class="relative mt-0.5 h-[18px] w-8 shrink-0 rounded-full disabled:opacity-60"
            :class="rule.switched_on ? 'bg-pine' : 'bg-ink-3'"
            :aria-label="`Rule ${n + 1} is switched ${rule.switched_on ? 'on' : 'off'}`"
            @update:model-value="emit('toggle', rule)">
            <span
              class="absolute top-0.5 size-3.5 rounded-full bg-on-pine"
              :class="rule.switched_on ? 'right-0.5' : 'left-0.5'"
              aria-hidden="true" />
          </Switch>
          <PickMenu
            v-if="mayChange"
            :label="`More for rule ${n + 1}`"
            plain
            align="right"
            :choices="choices"
            @pick="(what) => emit('act', what, rule.id)"
            ><span aria-hidden="true">⋯</span><span class="sr-only">More for rule {{ n + 1 }}</span></PickMenu
          >
        </div>
        <p
          v-for="w in warningsOf(rule.id).filter((one) => one.kind !== 'disagrees')"
          :key="w.kind + w.other"
          class="col-start-2 border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-1 text-[0.8125rem] text-honey-ink sm:col-end-5"
          data-test="rule-warning">
          {{ sayWarning(w, place) }}
        </p>
        <p
          v-if="warningsOf(rule.id).some((one) => one.kind === 'disagrees')"
          class="col-start-2 text-[0.78125rem] text-ink-2 sm:col-end-5"
          data-test="rule-disagrees">
          {{ sayDisagreements(warningsOf(rule.id), place) }}
        </p>
        <p
          v-if="rule.off_reason"
          class="col-start-2 border-l-[3px] border-brick-line bg-brick-wash px-2.5 py-1 text-[0.8125rem] text-brick sm:col-end-5">
          It answers no more: {{ rule.off_reason }}. The rest of it goes on.
          <button
            v-if="mayChange"
            type="button"
            class="font-semibold underline"
            data-test="answers-on"
            @click="emit('answers', rule)">
            Let it answer again
          </button>
        </p>
        <p v-if="chosen === rule.id" class="col-start-2 text-xs text-ink-2 sm:col-end-5">
          Owned by {{ sayMember(rule.owner_id) }}, changed by {{ sayMember(rule.changed_by) }}
          {{ sayTime(rule.changed_at, zone) }}, version {{ rule.version }}
        </p>
      </div>
    </li>
    <li v-if="!rules.rules.length" class="border-t border-rule-soft px-2 py-8 text-center text-ink-2">
      No rules yet. Everything that comes in waits to be sorted by hand.
    </li>
  </ol>
</template>
