<script setup lang="ts">
/** For a rule that answers by itself, and by how a message reads: how often that reading was right here lately. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { RuleAction, RuleBody, RuleGroup } from '@/api/types'
import { sayShare, useAccuracy } from '@/composables/useAccuracy'
import { READS_AS, type Label } from '@/lib/filters'
import { useSession } from '@/stores/session'

const props = defineProps<{ body: RuleBody }>()
const session = useSession()
const workspaceId = computed(() => session.workspace?.id ?? 0)

type Part = RuleGroup['parts'][number]
const listLabels = (part: Part): Label[] =>
  'parts' in part
    ? (part.parts as Part[]).flatMap(listLabels)
    : part.type === 'reads_as'
      ? ((part as unknown as { reads_as: Label[] }).reads_as ?? [])
      : []
const asked = computed(() => {
  const answers = (props.body.then as RuleAction[]).some((a) => a.type === 'reply' && !a.offer)
  return answers ? [...new Set(listLabels(props.body.when as Part))] : []
})
const { data } = useAccuracy(
  () => workspaceId.value,
  () => asked.value.length > 0 && workspaceId.value > 0,
)
const told = computed(() => (data.value?.labels ?? []).filter((l) => asked.value.includes(l.label as Label)))
</script>

<template>
  <div v-if="told.length" class="rounded bg-honey-wash px-2.5 py-1.5 text-[0.8125rem]" data-test="right-lately">
    <p v-for="l in told" :key="l.label">
      This rule answers by itself. “{{ READS_AS[l.label as Label] }}” was right here lately:
      <b>{{ sayShare(l.right) }}</b>
      <template v-if="!l.right.is_too_few"> of {{ l.right.of }} messages that somebody looked at</template>.
      <RouterLink
        v-if="l.right.is_too_few"
        class="underline"
        :to="{ name: 'setup', params: { workspace: String(workspaceId) } }"
        >Look at the week's sample</RouterLink
      >
    </p>
  </div>
</template>
