<script setup lang="ts">
/** One saved reply for all that are selected, made out to each; what stops it somewhere is said afterwards, one by one. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { SavedReply } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { hasWords, listWanted } from '@/lib/savedReplies'

const props = defineProps<{ workspaceId: number; count: number }>()
const emit = defineEmits<{ close: []; answer: [reply: SavedReply, settle: boolean] }>()
const { data: replies, ask } = useAsk<SavedReply[]>('Saved replies', {
  key: () => ['saved', props.workspaceId, false],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/saved-replies', {
        params: { path: { workspace_id: props.workspaceId } },
      }),
    ),
})
const words = ref('')
const chosen = ref<number | null>(null)
const settles = ref(false)
const found = computed(() => {
  const wanted = listWanted(words.value)
  return (replies.value ?? []).filter((r) => hasWords(r.body, wanted)).sort((a, b) => b.uses - a.uses)
})
const reply = computed(() => found.value.find((r) => r.id === chosen.value) ?? found.value[0])
</script>

<template>
  <AppDialog open :title="`Answer ${count} ${count === 1 ? 'conversation' : 'conversations'}`" @close="emit('close')">
    <form @submit.prevent="reply && emit('answer', reply, settles)">
      <label class="block text-xs font-semibold text-ink-2" for="bulk-reply"
        >A saved reply: its name, shortcut or words</label
      >
      <input
        id="bulk-reply"
        v-model="words"
        autocomplete="off"
        class="mt-1 w-full rounded border border-rule bg-raised px-2 py-1.5"
        data-test="bulk-reply" />
      <LoadState :of="ask">
        <fieldset v-if="found.length" class="mt-2 max-h-64 scroll-quiet overflow-y-auto" aria-label="Saved replies">
          <label
            v-for="r in found"
            :key="r.id"
            class="flex cursor-pointer gap-2 rounded px-2 py-1.5"
            :class="reply?.id === r.id ? 'bg-pine-wash' : ''">
            <input
              type="radio"
              name="reply"
              class="mt-1 accent-pine"
              :value="r.id"
              :checked="reply?.id === r.id"
              @change="chosen = r.id" />
            <span class="min-w-0"
              ><b>{{ r.body.name }}</b>
              <span class="line-clamp-2 text-[0.8125rem] text-ink-2" dir="auto">{{ r.body.text }}</span></span
            >
          </label>
        </fieldset>
        <p v-else class="mt-3 text-ink-2">
          {{
            words ? 'No saved reply has all of these words.' : 'There is no saved reply yet. They are written in Setup.'
          }}
        </p>
      </LoadState>
      <p class="mt-3 text-[0.8125rem] text-ink-2">
        Each gets it with their own name, in public or in private as they wrote. Those it cannot go to are left as they
        are and named with the reason: not for that account or language, too long there, needs approval, a colleague is
        writing, or nothing waits.
      </p>
      <label class="mt-2 flex items-center gap-2"
        ><input v-model="settles" type="checkbox" class="accent-pine" data-test="bulk-settle" />And settle them</label
      >
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit" :disabled="!reply" data-test="bulk-send">Send to {{ count }}</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
