<script setup lang="ts">
/** Everything about a person erased, at their wish: what would go, what has to be finished before, and their name once more. */
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import type { ErasurePreview } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'

const props = defineProps<{ workspaceId: number; personId: number }>()
const emit = defineEmits<{ close: []; erased: [] }>()
const path = { workspace_id: props.workspaceId, person_id: props.personId }
const PATH = '/api/workspaces/{workspace_id}/people/{person_id}/erasure' as const
const {
  data: seen,
  refetch,
  ask,
} = useAsk<ErasurePreview>('What would go', {
  key: () => ['erasure', props.workspaceId, props.personId],
  query: () => take(api.GET(PATH, { params: { path } })),
  // What was still to go out a moment ago is out now.
  staleTime: 0,
})
const { problem, isBusy, attempt } = useAttempt()
const name = ref('')
/** Each with what one and what several are called. */
const WORDS: [keyof ErasurePreview['counts'], string, string][] = [
  ['messages', 'message', 'messages'],
  ['notes', 'note', 'notes'],
  ['files', 'file', 'files'],
  ['translations', 'translation', 'translations'],
  ['facts', 'fact', 'facts'],
  ['follow_ups', 'follow-up', 'follow-ups'],
  ['cases', 'case', 'cases'],
  ['questions', 'question to somebody outside', 'questions to people outside'],
]
const goes = computed(() =>
  WORDS.flatMap(([key, one, several]) => {
    const n = seen.value?.counts[key] ?? 0
    return n ? [`${n} ${n === 1 ? one : several}`] : []
  }),
)
const canErase = computed(() => seen.value !== undefined && !seen.value.unfinished.length)

async function erase(): Promise<void> {
  if (!canErase.value || isBusy.value) return
  if (await attempt(() => take(api.POST(PATH, { params: { path }, body: { name: name.value } })))) emit('erased')
  else await refetch()
}
</script>

<template>
  <AppDialog open title="Erase all there is of them" wide @close="emit('close')">
    <LoadState v-if="!seen" :of="ask" />
    <form v-else class="text-[0.84375rem]" data-test="erase-dialog" @submit.prevent="erase">
      <p>
        Everything said by and to <b>{{ seen.name }}</b> in {{ seen.counts.conversations }}
        {{ seen.counts.conversations === 1 ? 'conversation' : 'conversations' }} goes for good<template
          v-if="goes.length"
          >: {{ goes.join(', ') }}</template
        >.
        <template v-if="seen.counts.mentions"
          >Where others address them, in {{ seen.counts.mentions }}
          {{ seen.counts.mentions === 1 ? 'conversation' : 'conversations' }}, “erased” stands instead.</template
        >
      </p>
      <p class="mt-2">
        When something was said, by which side and how long it waited stays, so that reports do not change. Open work of
        theirs is settled as removed. If they write again, they are somebody new.
      </p>
      <p class="mt-2 text-ink-2">
        Not reached from here: what stands on the networks, what a support desk or people outside were given, exports,
        and copies of this installation that were made before; in those it is until they run out.
        <template v-if="seen.counts.draws"
          >The published list of {{ seen.counts.draws === 1 ? 'a draw' : `${seen.counts.draws} draws` }} they took part
          in stays, so that it can be checked.</template
        >
        Their name in what others wrote, without an at sign, stays: it may be somebody else’s.
      </p>
      <div
        v-if="seen.unfinished.length"
        role="alert"
        class="mt-3 rounded bg-honey-wash px-3 py-2 text-honey-ink"
        data-test="unfinished">
        <p class="flex font-semibold">
          First finish, or take back:
          <button type="button" class="ml-auto font-normal underline" @click="refetch()">Look again</button>
        </p>
        <p v-for="(one, n) in seen.unfinished" :key="n">
          {{ one.why }}.
          <RouterLink
            class="underline"
            :to="{
              name: 'desk',
              params: { workspace: String(workspaceId), conversation: String(one.conversation_id) },
            }"
            >See the conversation</RouterLink
          >
        </p>
      </div>
      <label v-else class="mt-3 block"
        ><span class="mb-1 block font-semibold">To be sure, write what they are called: {{ seen.name }}</span
        ><input
          v-model="name"
          class="w-full rounded border border-rule bg-raised px-2 py-1.5"
          autocomplete="off"
          data-test="erase-name"
      /></label>
      <p v-if="problem" role="alert" class="mt-2 rounded bg-brick-wash px-3 py-1.5 text-brick">{{ problem }}</p>
      <div class="mt-4 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <button
          type="submit"
          class="rounded bg-brick px-3 py-1.5 font-bold text-on-pine disabled:opacity-50"
          :disabled="!canErase || isBusy || name.trim() !== seen.name.trim()">
          {{ isBusy ? 'Erasing …' : 'Erase for good' }}
        </button>
      </div>
    </form>
  </AppDialog>
</template>
