<script setup lang="ts">
/** What one was told, newest first, and how one wants to be told. */
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ApiProblem, take } from '@/api/client'
import type { Alerts } from '@/api/types'
import AlertChoices from '@/features/alerts/AlertChoices.vue'
import AppDialog from '@/components/ui/AppDialog.vue'
import { sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; zone: string }>()
const emit = defineEmits<{ close: [] }>()
const told = ref<Alerts | null>(null)
const isChoosing = ref(false)
const problem = ref<string | null>(null)
const path = { workspace_id: props.workspaceId }

async function guard(work: () => Promise<void>): Promise<void> {
  try {
    problem.value = null
    await work()
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    problem.value = error.message
  }
}
void guard(async () => {
  told.value = await take(api.GET('/api/workspaces/{workspace_id}/alerts', { params: { path } }))
  if (told.value.unread) await take(api.POST('/api/workspaces/{workspace_id}/alerts/read', { params: { path } }))
})
</script>

<template>
  <AppDialog open :title="isChoosing ? 'How you want to be told' : 'What you were told'" wide @close="emit('close')">
    <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }}</p>
    <template v-if="!isChoosing">
      <ol v-if="told" class="max-h-[50vh] scroll-quiet overflow-y-auto" data-test="alerts">
        <li v-for="a in told.alerts" :key="a.id" class="border-b border-rule-soft py-1.5">
          <component
            :is="a.conversation_id ? RouterLink : 'div'"
            :to="{ name: 'desk', params: { workspace: String(workspaceId), conversation: String(a.conversation_id) } }"
            class="flex gap-3"
            :class="a.conversation_id ? 'hover:underline' : ''"
            @click="a.conversation_id && emit('close')"
            ><time class="w-24 shrink-0 text-xs text-ink-2">{{ sayTime(a.at, zone) }}</time
            ><span class="min-w-0 flex-1 break-words" :class="a.read_at ? '' : 'font-semibold'">{{
              a.words
            }}</span></component
          >
        </li>
        <li v-if="!told.alerts.length" class="py-6 text-center text-ink-2">Nothing yet.</li>
      </ol>
      <div class="mt-3 flex justify-between">
        <button type="button" class="font-semibold text-pine underline" @click="isChoosing = true">
          How you want to be told</button
        ><button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="emit('close')">
          Close
        </button>
      </div>
    </template>
    <template v-else>
      <AlertChoices :workspace-id="workspaceId" />
      <div class="mt-3 flex justify-end">
        <button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="emit('close')">
          Close
        </button>
      </div>
    </template>
  </AppDialog>
</template>
