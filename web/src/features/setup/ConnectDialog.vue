<script setup lang="ts">
/** Connecting an account: by its network's leave at a page of the network's own, or with a token from there. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { Network } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAttempt } from '@/composables/useAttempt'

const props = defineProps<{ workspaceId: number; networks: Network[]; network?: string | undefined }>()
const emit = defineEmits<{ close: []; connected: [id: number] }>()
const said = ref({
  network: props.network ?? props.networks[0]?.network ?? '',
  name: '',
  handle: '',
  external_id: '',
  api_url: '',
  token: '',
})
const { problem, isBusy, attempt } = useAttempt()
const FIELDS = [
  ['name', 'Its name'],
  ['handle', 'Its handle there'],
  ['external_id', 'Its id there, as the network tells it to programs'],
  ['api_url', 'Address of the network’s interface for programs'],
  ['token', 'Access token, from the network’s page for connected programs'],
] as const
const chosen = computed(() => props.networks.find((n) => n.network === said.value.network))
/** Who would rather have a token from the network's page for programs. */
const byToken = ref(false)
const asks = computed(() => (chosen.value?.asks ?? false) && !byToken.value)
const go = (): Promise<boolean> =>
  attempt(async () => {
    const there = await take(
      api.POST('/api/workspaces/{workspace_id}/accounts/ask', {
        params: { path: { workspace_id: props.workspaceId } },
        body: { network: said.value.network },
      }),
    )
    window.location.assign(there.address)
  })
const connect = (): Promise<boolean> =>
  attempt(async () => {
    const made = await take(
      api.POST('/api/workspaces/{workspace_id}/accounts', {
        params: { path: { workspace_id: props.workspaceId } },
        body: said.value,
      }),
    )
    emit('connected', made.id)
  })
const input = 'mt-1 mb-2.5 block w-full rounded border border-rule bg-raised px-2 py-1.5'
</script>

<template>
  <AppDialog open title="Connect an account" @close="emit('close')">
    <form data-test="connect" @submit.prevent="asks ? go() : connect()">
      <label class="block text-xs font-semibold text-ink-2"
        >Network<select v-model="said.network" class="text-[0.84375rem] font-normal text-ink" :class="input">
          <option v-for="n in networks" :key="n.network" :value="n.network">{{ n.name }}</option>
        </select></label
      >
      <p v-if="asks" class="mb-2.5">
        {{ chosen?.name }} asks at its own page for which account this is, and whether Sorta may read and answer for it.
        It sends you back here.
        <button type="button" class="underline" @click="byToken = true">Connect with a token instead</button>
      </p>
      <label v-for="[field, words] in asks ? [] : FIELDS" :key="field" class="block text-xs font-semibold text-ink-2"
        >{{ words
        }}<input
          v-model="said[field]"
          required
          maxlength="500"
          autocomplete="off"
          class="text-[0.84375rem] font-normal text-ink"
          :class="input"
          :data-test="`connect-${field}`"
      /></label>
      <p v-if="problem" role="alert" class="mb-2 text-brick" data-test="connect-problem">{{ problem }}</p>
      <p v-if="!asks" class="mb-3 text-xs text-ink-2">
        The network is asked once before anything is kept. What was said there lately comes in within a minute.
      </p>
      <div class="flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit" :disabled="isBusy">
          {{ asks ? `Go to ${chosen?.name}` : 'Connect' }}
        </UiButton>
      </div>
    </form>
  </AppDialog>
</template>
