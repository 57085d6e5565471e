<script setup lang="ts">
/** What one was told, newest first and by what it is about, and how one wants to be told. */
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import type { Alerts } from '@/api/types'
import AlertChoices from '@/features/alerts/AlertChoices.vue'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAttempt } from '@/composables/useAttempt'
import { sayTime } from '@/lib/words'
import { groupAlerts, type AlertGroup } from './alertGroups'

const props = defineProps<{ workspaceId: number; zone: string }>()
const emit = defineEmits<{ close: [] }>()
const told = ref<Alerts | null>(null)
const isChoosing = ref(false)
const { problem, attempt } = useAttempt()
const closing = ref<HTMLElement | null>(null)
const path = { workspace_id: props.workspaceId }
const groups = computed(() => groupAlerts(told.value?.alerts ?? [], String(props.workspaceId)))
const isUnread = (g: AlertGroup): boolean => g.alerts.some((a) => !a.read_at)

async function load(): Promise<void> {
  told.value = await take(api.GET('/api/workspaces/{workspace_id}/alerts', { params: { path } }))
}
const read = (ids: (number | null)[]): Promise<boolean> =>
  attempt(async () => {
    for (const id of ids) {
      const query = id === null ? {} : { id }
      await take(api.POST('/api/workspaces/{workspace_id}/alerts/read', { params: { path, query } }))
    }
    await load()
  })
/** Whoever goes where it leads has read it. */
function follow(g: AlertGroup): void {
  const unread = g.alerts.filter((a) => !a.read_at).map((a) => a.id)
  if (unread.length) void read(unread).then(() => emit('close'))
  else emit('close')
}
void attempt(load)
</script>

<template>
  <AppDialog
    open
    :title="isChoosing ? 'How you want to be told' : 'What you were told'"
    wide
    :initial-focus="closing"
    @close="emit('close')">
    <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }}</p>
    <template v-if="!isChoosing">
      <ol v-if="told" class="max-h-[50vh] scroll-quiet overflow-y-auto" data-test="alerts">
        <li v-for="g in groups" :key="g.key" class="border-b border-rule-soft py-1.5" data-test="alert-group">
          <component
            :is="g.to ? RouterLink : 'div'"
            v-bind="g.to ? { to: g.to } : {}"
            class="block"
            :class="g.to ? 'hover:underline' : ''"
            @click="g.to && follow(g)">
            <span v-for="a in g.alerts.slice(0, 3)" :key="a.id" class="flex gap-3"
              ><time class="w-24 shrink-0 text-xs text-ink-2">{{ sayTime(a.at, zone) }}</time
              ><span class="min-w-0 flex-1 break-words" :class="a.read_at ? 'text-ink-2' : 'font-semibold'"
                ><span v-if="!a.read_at" class="sr-only">Unread: </span>{{ a.words }}</span
              ></span
            >
            <span v-if="g.alerts.length > 3" class="ml-27 block text-xs text-ink-2"
              >and {{ g.alerts.length - 3 }} more before</span
            >
          </component>
          <button
            v-if="!g.to && isUnread(g)"
            type="button"
            class="ml-27 text-xs font-semibold underline"
            @click="read(g.alerts.filter((a) => !a.read_at).map((a) => a.id))">
            Read
          </button>
        </li>
        <li v-if="!groups.length" class="py-6 text-center text-ink-2">Nothing yet.</li>
      </ol>
      <p v-else-if="!problem" class="py-6 text-center text-ink-2">Looking …</p>
      <div class="mt-3 flex items-center gap-4">
        <button type="button" class="font-semibold text-pine underline" @click="isChoosing = true">
          How you want to be told</button
        ><button
          v-if="told?.unread"
          type="button"
          class="font-semibold underline"
          data-test="all-read"
          @click="read([null])">
          All read</button
        ><button
          ref="closing"
          type="button"
          class="ml-auto rounded px-3 py-1.5 font-semibold hover:bg-fold"
          @click="emit('close')">
          Close
        </button>
      </div>
    </template>
    <template v-else>
      <AlertChoices :workspace-id="workspaceId" />
      <div class="mt-3 flex justify-end">
        <UiButton @click="emit('close')">Close</UiButton>
      </div>
    </template>
  </AppDialog>
</template>
