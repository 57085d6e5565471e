<script setup lang="ts">
/** What comes in that one wants to hear of: by accounts, of kinds, with words. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { AlertChoices, Kind } from '@/api/types'
import MultiPick from '@/components/ui/MultiPick.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useDirectory } from '@/composables/useDirectory'
import { KINDS } from '@/lib/words'

type Watch = AlertChoices['watches'][number]
const props = defineProps<{ workspaceId: number; watches: Watch[] }>()
const emit = defineEmits<{ changed: [] }>()
const { accounts } = useDirectory()
const path = { workspace_id: props.workspaceId }
const chosen = ref<number[]>([])
const kinds = ref<Kind[]>([])
const words = ref('')
const { problem, isBusy, attempt } = useAttempt()
const places = computed(() =>
  (accounts.value ?? []).map((a) => ({ value: a.id, text: `${a.name} on ${a.network_name}` })),
)
const kindChoices = Object.entries(KINDS).map(([value, text]) => ({ value: value as Kind, text }))
const list = (said: string): string[] =>
  said
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean)

async function add(): Promise<void> {
  const body = { accounts: chosen.value, kinds: kinds.value, words: list(words.value) }
  if (
    !(await attempt(() => take(api.POST('/api/workspaces/{workspace_id}/alerts/watches', { params: { path }, body }))))
  )
    return
  chosen.value = []
  kinds.value = []
  words.value = ''
  emit('changed')
}
async function remove(id: number): Promise<void> {
  const url = '/api/workspaces/{workspace_id}/alerts/watches/{watch_id}' as const
  await attempt(() => take(api.DELETE(url, { params: { path: { ...path, watch_id: id } } })))
  emit('changed')
}
/** A sentence that reads aloud. */
function say(w: Watch): string {
  const what = w.kinds?.length ? w.kinds.map((k) => KINDS[k]).join(' or ') : 'anything'
  const where = w.accounts?.length
    ? ` by ${w.accounts.map((id) => places.value.find((p) => p.value === id)?.text ?? 'an account that is gone').join(' or ')}`
    : ''
  const about = w.words?.length ? ` with ${w.words.map((x) => `“${x}”`).join(' or ')}` : ''
  return `${what}${where}${about}`
}
</script>

<template>
  <section
    aria-labelledby="watch-title"
    class="mt-3 border-t border-rule-soft pt-3 text-[0.84375rem]"
    data-test="watches">
    <h3 id="watch-title" class="text-xs font-semibold text-ink-2">What comes in that you want to hear of</h3>
    <p v-for="w in watches" :key="w.id" class="flex items-baseline gap-2 py-0.5" data-test="watch">
      <span class="min-w-0 break-words first-letter:uppercase">{{ say(w) }}</span>
      <button
        type="button"
        class="ml-auto text-xs underline"
        :aria-label="`Not any more: ${say(w)}`"
        @click="remove(w.id)">
        Not any more
      </button>
    </p>
    <form class="mt-1 flex flex-wrap items-center gap-1.5" @submit.prevent="add">
      <MultiPick v-model="kinds" label="Kinds" empty="anything" :choices="kindChoices" /> by
      <MultiPick v-model="chosen" label="Accounts" empty="any account" :choices="places" /> with
      <input
        v-model="words"
        class="min-w-0 flex-1 rounded border border-rule bg-raised px-2 py-[3px]"
        placeholder="words, with commas between"
        aria-label="Words"
        data-test="watch-words" />
      <button
        type="submit"
        class="rounded border border-rule bg-raised px-2.5 py-[3px] font-semibold hover:bg-fold disabled:opacity-50"
        :disabled="isBusy || !(chosen.length || kinds.length || list(words).length)">
        Tell me
      </button>
    </form>
    <p v-if="problem" role="alert" class="mt-1 text-brick">{{ problem }}</p>
  </section>
</template>
