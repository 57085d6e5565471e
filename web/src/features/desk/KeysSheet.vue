<script setup lang="ts">
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { Screen } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import { KEY_WORDS } from '@/lib/keys'
import { useAttempt } from '@/composables/useAttempt'
import { useSession } from '@/stores/session'

defineEmits<{ close: [] }>()
const session = useSession()
/** Not on the choices: an arrow meant for something else must not change one. */
const closing = ref<HTMLElement | null>(null)
const { problem, attempt } = useAttempt()
const CHOICES: [Screen['single_keys'], string][] = [
  ['plain', 'Act as they are'],
  ['alt', 'Only together with Alt'],
  ['off', 'Are switched off'],
]
const choose = (how: Screen['single_keys']): Promise<boolean> => attempt(() => session.setScreen({ single_keys: how }))
const isSingle = (keys: string): boolean => /^(Shift )?\S( … \S)?$/.test(keys)
</script>

<template>
  <AppDialog open title="Keys" wide :initial-focus="closing" @close="$emit('close')">
    <fieldset class="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-[0.8125rem]">
      <legend class="float-left mr-2 font-semibold">Keys of one character</legend>
      <label v-for="[value, words] in CHOICES" :key="value" class="flex items-center gap-1.5">
        <input
          type="radio"
          name="single-keys"
          class="accent-pine"
          :value="value"
          :checked="(session.session?.screen.single_keys ?? 'plain') === value"
          @change="choose(value)" />{{ words }}
      </label>
    </fieldset>
    <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick">{{ problem }}</p>
    <dl class="grid grid-cols-2 gap-x-8 gap-y-1.5">
      <div
        v-for="[keys, words] in KEY_WORDS"
        :key="keys"
        class="flex items-center justify-between border-b border-dotted border-rule pb-1">
        <dt>{{ words }}</dt>
        <dd>
          <kbd
            class="rounded border border-rule bg-raised px-1.5 py-0.5 text-xs font-semibold"
            :data-single="isSingle(keys) || undefined"
            >{{ keys }}</kbd
          >
        </dd>
      </div>
    </dl>
    <p class="mt-3 text-xs text-ink-2">
      Keys act on what you look at: on the open conversation, on all that are selected, or in the dialog that is open.
      What has no key left is in find-or-do (Ctrl K). Escape steps back.
      <RouterLink class="underline" :to="{ name: 'words', params: { workspace: String(session.workspaceId) } }"
        >What the words mean</RouterLink
      >
    </p>
    <button
      ref="closing"
      type="button"
      class="mt-3 rounded bg-pine px-3 py-1.5 font-bold text-on-pine"
      @click="$emit('close')">
      Close
    </button>
  </AppDialog>
</template>
