<script setup lang="ts">
/** How the screen is for this member, on every device: what is chosen shows at once. */
import { ref } from 'vue'
import type { Screen } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useSession } from '@/stores/session'

defineEmits<{ close: [] }>()
const session = useSession()
const { problem, attempt } = useAttempt()
const closing = ref<HTMLElement | null>(null)
const CHOICES: { field: 'theme' | 'text_size' | 'density' | 'tab'; words: string; of: [string | number, string][] }[] =
  [
    {
      field: 'theme',
      words: 'Light or dark',
      of: [
        ['device', 'As this device'],
        ['light', 'Light'],
        ['dark', 'Dark'],
      ],
    },
    { field: 'text_size', words: 'Size of text', of: [90, 100, 115, 130, 150].map((size) => [size, `${size} %`]) },
    {
      field: 'density',
      words: 'Rows of the desk',
      of: [
        ['full', 'Two lines of what was said'],
        ['compact', 'One line, more rows'],
      ],
    },
    {
      field: 'tab',
      words: "The number on the browser's tab: what waits",
      of: [
        ['mine', 'For me'],
        ['team', 'For me and my teams'],
        ['all', 'For everybody'],
      ],
    },
  ]
const choose = (wish: Partial<Screen>): Promise<boolean> => attempt(() => session.setScreen(wish))
</script>

<template>
  <AppDialog open title="Your screen" :initial-focus="closing" @close="$emit('close')">
    <fieldset v-for="c in CHOICES" :key="c.field" class="mb-4">
      <legend class="mb-1 font-semibold">{{ c.words }}</legend>
      <div class="flex flex-wrap gap-x-5 gap-y-1">
        <label v-for="[value, words] in c.of" :key="value" class="flex min-h-6 items-center gap-1.5">
          <input
            type="radio"
            :name="c.field"
            class="accent-pine"
            :value="value"
            :checked="session.session?.screen[c.field] === value"
            @change="choose({ [c.field]: value })" />{{ words }}
        </label>
      </div>
    </fieldset>
    <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }} It is as it was before.</p>
    <p class="text-[0.8125rem] text-ink-2">
      Kept for you, on every device. The keys are in their own sheet (<kbd class="font-semibold">?</kbd> on the desk).
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
