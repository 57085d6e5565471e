<script setup lang="ts">
/** Priority, owner, tags and the rest, each with who or which rule set it and by what evidence. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Sheet } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { PRIORITIES, SETTLED, sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'
import { listWhy, sayEvidence, type Why } from './why'

const props = defineProps<{ workspaceId: number; sheet: Sheet; zone: string }>()
const { sayMember, byTag, byTeam } = useDirectory()
const session = useSession()
/** Of what they took back, or what was erased, no rule can be made. */
const mayMakeRules = computed(
  () => session.may('manage_rules') && props.sheet.messages.some((m) => m.inbound && !m.removed_at),
)
const reasons = computed(() =>
  listWhy(props.sheet.trail, props.sheet.conversation.tags).filter(
    (w) => w.what !== 'owner' || w.event.data.owner != null || w.event.data.team != null,
  ),
)
function title(w: Why): string {
  switch (w.what) {
    case 'priority':
      return PRIORITIES[w.event.data.priority] ?? ''
    case 'owner':
      return `With ${w.event.data.owner != null ? sayMember(w.event.data.owner) : byTeam.value.get(w.event.data.team ?? 0)}`
    case 'tag':
      return byTag.value.get(w.event.data.tag) ?? 'Tag'
    case 'settled':
      return w.event.kind === 'handed_over'
        ? `Handed over to ${w.event.data.desk}`
        : `Settled: ${SETTLED[w.event.data.how]}`
    case 'parked':
      return `Parked until ${sayTime(w.event.data.until, props.zone)}`
  }
}
function because(w: Why): string {
  const rule = w.event.rule
  const given = w.what === 'owner' ? w.event.data : null
  const chosen = given?.choice
  const team = byTeam.value.get(given?.team ?? 0)
  return [
    rule && sayEvidence(rule.evidence),
    chosen && `${team}: ${chosen.reason}`,
    chosen?.passed.map(([id, why]) => `${sayMember(Number(id))} ${why}`).join(', '),
  ]
    .filter(Boolean)
    .join('; ')
}
</script>

<template>
  <section v-if="reasons.length || mayMakeRules" data-test="why">
    <h2 v-if="reasons.length" class="mb-1 text-xs font-semibold text-ink-2">Why it is so</h2>
    <ul v-if="reasons.length">
      <li v-for="(w, n) in reasons" :key="n" class="border-b border-dotted border-rule py-1" :data-why="w.what">
        <span class="flex justify-between gap-2"
          ><b :class="w.what === 'priority' && w.event.data.priority === 3 ? 'text-brick' : ''">{{ title(w) }}</b>
          <RouterLink
            v-if="w.event.rule"
            class="text-right text-pine underline"
            :to="{
              name: 'rules',
              params: { workspace: String(workspaceId) },
              query: { rule: String(w.event.rule.id) },
            }"
            :title="`Version ${w.event.rule.version} of the rule`"
            >by rule: {{ w.event.rule.name }}</RouterLink
          >
          <span v-else class="text-right text-ink-2">by {{ sayMember(w.event.member_id) }}</span></span
        >
        <span v-if="because(w)" class="block text-xs text-ink-2">{{ because(w) }}</span>
      </li>
    </ul>
    <RouterLink
      v-if="mayMakeRules"
      class="mt-1 inline-block text-[0.8125rem] text-pine underline"
      :to="{
        name: 'rules',
        params: { workspace: String(workspaceId) },
        query: { from: String(sheet.conversation.id) },
      }"
      data-test="rule-of-this"
      >Make a rule of this</RouterLink
    >
  </section>
</template>
