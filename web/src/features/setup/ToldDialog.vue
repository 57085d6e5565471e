<script setup lang="ts">
/** What a program was told, or is to be: the latest, and once more. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { Hook, HookEvent } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; hook: Hook; zone: string }>()
const emit = defineEmits<{ close: [] }>()
const path = computed(() => ({ workspace_id: props.workspaceId, hook_id: props.hook.id }))
const {
  data: events,
  ask,
  refetch,
} = useAsk<HookEvent[]>('What it was told', {
  key: () => ['told', props.workspaceId, props.hook.id],
  query: () =>
    take(api.GET('/api/workspaces/{workspace_id}/programs/hooks/{hook_id}/events', { params: { path: path.value } })),
  staleTime: 0,
})
const said = ref('')
const { problem, attempt } = useAttempt(refetch)
const tell = (event: number | null): Promise<boolean> =>
  attempt(async () => {
    const done = await take(
      api.POST('/api/workspaces/{workspace_id}/programs/hooks/{hook_id}/again', {
        params: { path: path.value },
        body: { event_id: event },
      }),
    )
    said.value = done.count === 1 ? 'It is told once more within seconds.' : `${done.count} are told once more.`
  })
const sayEnd = (e: HookEvent): string =>
  e.state === 'sent'
    ? `taken ${sayTime(e.ended_at ?? e.made_at, props.zone)}`
    : e.state === 'failed'
      ? `given up after ${e.attempts} tries. ${e.problem ?? ''}`
      : `waits${e.problem ? `: ${e.problem}` : ''}${e.attempts && e.next_at ? ` Again ${sayTime(e.next_at, props.zone)}.` : ''}`
</script>

<template>
  <AppDialog open :title="`What ${hook.name} was told`" @close="emit('close')">
    <div data-test="told">
      <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }}</p>
      <p v-else-if="said" role="status" class="mb-2" data-test="told-said">{{ said }}</p>
      <LoadState :of="ask" :lines="4">
        <p v-if="!events?.length" class="text-ink-2">Nothing yet.</p>
        <ul
          v-else
          class="max-h-80 scroll-quiet overflow-y-auto text-[0.8125rem]"
          tabindex="0"
          aria-label="The latest first">
          <li
            v-for="e in events"
            :key="e.id"
            class="border-b border-rule-soft py-1 last:border-0"
            data-test="told-event">
            <b>{{ e.event }}</b> in conversation {{ e.conversation_id }}, {{ sayTime(e.made_at, zone) }}
            <span class="block text-xs" :class="e.state === 'sent' ? 'text-ink-2' : 'text-honey-ink'"
              >{{ sayEnd(e) }}
              <button
                v-if="e.state !== 'waiting'"
                type="button"
                class="ml-1 underline"
                :aria-label="`Tell ${e.event} ${e.id} again`"
                @click="tell(e.id)">
                Tell again
              </button></span
            >
          </li>
        </ul>
      </LoadState>
      <div class="mt-3 flex justify-end gap-2">
        <button
          v-if="events?.some((e) => e.state === 'failed')"
          type="button"
          class="rounded border border-rule bg-raised px-3 py-1.5 font-semibold"
          @click="tell(null)">
          Tell all again that were given up
        </button>
        <UiButton @click="emit('close')">Close</UiButton>
      </div>
    </div>
  </AppDialog>
</template>
