<script setup lang="ts">
/** Holding everything that goes out, with a reason, and letting it go. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { Outgoing } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'

const props = defineProps<{ workspaceId: number; mayHold: boolean; data: Outgoing }>()
const emit = defineEmits<{ changed: [] }>()
const { sayMember } = useDirectory()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const reason = ref('')
const { problem, attempt } = useAttempt()
async function change(call: () => Promise<unknown>): Promise<void> {
  if (await attempt(call)) reason.value = ''
  emit('changed')
}
const hold = (): Promise<void> =>
  change(() =>
    take(
      api.PUT('/api/workspaces/{workspace_id}/outgoing/hold', {
        params: { path: path.value },
        body: { reason: reason.value },
      }),
    ),
  )
const release = (): Promise<void> =>
  change(() => take(api.DELETE('/api/workspaces/{workspace_id}/outgoing/hold', { params: { path: path.value } })))
</script>

<template>
  <section class="mb-6" aria-label="Hold" data-test="hold">
    <div class="rounded-md border border-rule bg-sheet p-4 text-[0.84375rem]">
      <template v-if="data.held_at">
        <p>
          Held by {{ sayMember(data.held_by) }}: {{ data.held_reason }}. {{ data.waiting.length }}
          {{ data.waiting.length === 1 ? 'waits' : 'wait' }} to go out.
        </p>
        <button
          v-if="mayHold"
          type="button"
          class="mt-2 rounded bg-pine px-3 py-1 font-bold text-on-pine"
          data-test="release"
          @click="release">
          Let everything go
        </button>
      </template>
      <form v-else class="flex flex-wrap items-center gap-2" @submit.prevent="hold">
        <span>Answers go out as they are sent. </span>
        <template v-if="mayHold"
          ><label class="ml-auto"
            >Hold everything, because
            <input
              v-model="reason"
              required
              maxlength="300"
              class="w-64 rounded border border-rule bg-raised px-2 py-0.5"
              data-test="hold-reason" /></label
          ><button
            type="submit"
            class="rounded border border-brick px-2.5 py-0.5 font-semibold text-brick hover:bg-brick-wash"
            data-test="hold-all">
            Hold
          </button></template
        >
      </form>
      <p v-if="problem" role="alert" class="mt-1 text-brick">{{ problem }}</p>
    </div>
  </section>
</template>
