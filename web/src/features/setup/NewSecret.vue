<script setup lang="ts">
/** A new signing secret of an account or a desk: asked for, then shown once with until when the one before is taken. */
import { ref, watch } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { sayTime } from '@/lib/words'

const props = defineProps<{
  workspaceId: number
  zone: string
  /** What it is a secret of; null while nobody asks. */
  of: { kind: 'account' | 'desk'; id: number; name: string } | null
}>()
const emit = defineEmits<{ close: [] }>()
const made = ref<{ secret: string; before_until: string } | null>(null)
const { problem, isBusy: busy, attempt } = useAttempt()
const copied = ref(false)
watch(
  () => props.of,
  () => {
    made.value = null
    problem.value = ''
    copied.value = false
  },
)
async function make(): Promise<void> {
  const of = props.of
  if (!of || busy.value) return
  await attempt(async () => {
    if (of.kind === 'account') {
      const path = { workspace_id: props.workspaceId, account_id: of.id }
      made.value = await take(
        api.POST('/api/workspaces/{workspace_id}/accounts/{account_id}/hook-secret', { params: { path } }),
      )
    } else {
      const path = { workspace_id: props.workspaceId, desk_id: of.id }
      made.value = await take(
        api.POST('/api/workspaces/{workspace_id}/desks/{desk_id}/hook-secret', { params: { path } }),
      )
    }
  })
}
async function copy(): Promise<void> {
  if (!made.value) return
  try {
    await navigator.clipboard.writeText(made.value.secret)
    copied.value = true
  } catch {
    problem.value = 'The browser does not let Sorta copy. Select the secret and copy it yourself.'
  }
}
</script>

<template>
  <AppDialog :open="of !== null" :title="`New signing secret for ${of?.name ?? ''}`" @close="emit('close')">
    <template v-if="!made">
      <p class="text-[0.8125rem]">
        With it {{ of?.kind === 'desk' ? 'the desk' : 'the network' }} signs what it sends here. The one before is taken
        too for three days, so that nothing is lost while you change it over there.
      </p>
      <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" :disabled="busy" @click="make">Make a new secret</UiButton>
      </div>
    </template>
    <template v-else>
      <label class="block text-xs font-semibold text-ink-2" for="secret">The new secret, shown this once</label>
      <div class="mt-1 flex gap-2">
        <input
          id="secret"
          :value="made.secret"
          readonly
          class="w-full rounded border border-rule bg-raised px-3 py-2 font-mono text-[0.8125rem]"
          data-test="secret"
          @focus="($event.target as HTMLInputElement).select()" />
        <button
          type="button"
          class="rounded border border-rule bg-raised px-3 text-[0.8125rem] font-semibold hover:bg-fold"
          @click="copy">
          {{ copied ? 'Copied' : 'Copy' }}
        </button>
      </div>
      <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
      <p class="mt-2 text-[0.8125rem]" role="status">
        Enter it {{ of?.kind === 'desk' ? 'at the desk' : 'on the network’s page for connected programs' }}. The one
        before is taken until {{ sayTime(made.before_until, zone) }}.
      </p>
      <div class="mt-3 flex justify-end">
        <UiButton kind="main" @click="emit('close')">I have kept it</UiButton>
      </div>
    </template>
  </AppDialog>
</template>
