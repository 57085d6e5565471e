<script setup lang="ts">
/** Somebody works here no more: what is theirs, and who gets it. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { Member, Team, Work } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'

const props = defineProps<{ workspaceId: number; member: Member; members: Member[]; teams: Team[] }>()
const emit = defineEmits<{ close: []; gone: [said: string] }>()
const path = computed(() => ({ workspace_id: props.workspaceId, member_id: props.member.id }))
const { data: work, ask } = useAsk<Work>('What is theirs', {
  key: () => ['work', props.workspaceId, props.member.id],
  query: () =>
    take(api.GET('/api/workspaces/{workspace_id}/members/{member_id}/work', { params: { path: path.value } })),
  staleTime: 0,
})
const heirs = computed(() => props.members.filter((m) => m.id !== props.member.id && m.may_sort))
const heir = ref('')
const { problem, isBusy, attempt } = useAttempt()
const count = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`
const parts = computed(() => {
  const w = work.value
  if (!w) return []
  const found: [number, string][] = [
    [w.open, `${count(w.open, 'open conversation', 'open conversations')}, passed on as chosen below`],
    [
      w.proposals,
      `${count(w.proposals, 'answer that waits', 'answers that wait')} for approval, taken back; the words stay as drafts that colleagues see`,
    ],
    [w.scheduled, `${count(w.scheduled, 'answer', 'answers')} to be sent later, stopped; the words stay likewise`],
    [w.drafts, `${count(w.drafts, 'draft', 'drafts')}, shown to colleagues from then on`],
    [w.follow_ups, `${count(w.follow_ups, 'follow-up', 'follow-ups')} to be reminded of, passed on likewise`],
    [
      w.asked,
      `${count(w.asked, 'answer', 'answers')} of others that they are asked to approve; others who may are asked in their place`,
    ],
  ]
  return found.filter(([n]) => n).map(([, words]) => words)
})
const named = computed(() => {
  const w = work.value
  if (!w) return []
  return [
    ...w.teams.map((t) => `the team ${t}, which they leave`),
    ...w.policies.map((p) => `the approval policy “${p}”: name somebody else there`),
    ...w.rules.map((r) => `the rule “${r}”: what it gives them is passed on as below`),
  ]
})
const letGo = (): Promise<boolean> =>
  attempt(async () => {
    const [kind, id] = heir.value.split(':')
    const done = await take(
      api.POST('/api/workspaces/{workspace_id}/members/{member_id}/let-go', {
        params: { path: path.value },
        body: { to_owner: kind === 'member' ? Number(id) : null, to_team: kind === 'team' ? Number(id) : null },
      }),
    )
    emit(
      'gone',
      `${props.member.name} works here no more. ${count(done.conversations, 'open conversation was', 'open conversations were')} passed on.`,
    )
  })
</script>

<template>
  <AppDialog open :title="`Let ${member.name} go`" @close="emit('close')">
    <form data-test="let-go" @submit.prevent="letGo">
      <LoadState :of="ask" :lines="3">
        <template v-if="work">
          <p v-if="!parts.length" class="mb-2">Nothing is open of theirs.</p>
          <ul v-else class="mb-2 list-disc pl-5">
            <li v-for="words in parts" :key="words">{{ words }}</li>
          </ul>
          <template v-if="named.length">
            <p class="font-semibold">They are named in</p>
            <ul class="mb-2 list-disc pl-5">
              <li v-for="words in named" :key="words">{{ words }}</li>
            </ul>
          </template>
        </template>
      </LoadState>
      <label class="block text-xs font-semibold text-ink-2"
        >Their open conversations go to<select
          v-model="heir"
          class="mt-1 mb-2.5 block w-full rounded border border-rule bg-raised px-2 py-1.5 text-[0.84375rem] font-normal text-ink"
          data-test="heir">
          <option value="">nobody in particular</option>
          <optgroup label="Members">
            <option v-for="m in heirs" :key="m.id" :value="`member:${m.id}`">{{ m.name }}</option>
          </optgroup>
          <optgroup v-if="teams.length" label="Teams">
            <option v-for="t in teams" :key="t.id" :value="`team:${t.id}`">{{ t.name }}</option>
          </optgroup>
        </select></label
      >
      <p class="mb-3 text-xs text-ink-2">
        They are signed out unless they work in another workspace. Their name stays where they have answered. Who is
        invited again comes back.
      </p>
      <p v-if="problem" role="alert" class="mb-2 text-brick" data-test="let-go-problem">{{ problem }}</p>
      <div class="flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="danger" type="submit" :disabled="isBusy || !work">Let go</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
