<script setup lang="ts">
/** Asks for a day and a time that lie ahead, with some that are often meant. */
import { ref } from 'vue'
import { fromField, saySkipped, sayZone, toField } from '@/lib/words'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'

const props = defineProps<{
  title: string
  about: string
  button: string
  often?: { words: string; at: Date }[]
  from?: string
  /** The zone that the field's clock is in. */
  zone: string
}>()
const emit = defineEmits<{ close: []; pick: [at: string] }>()
const when = ref(props.from ? toField(props.from, props.zone) : '')
const problem = ref('')

function pick(): void {
  const at = fromField(when.value, props.zone)
  if (at === null || at <= Date.now()) problem.value = 'Choose a time that lies ahead.'
  else emit('pick', new Date(at).toISOString())
}
</script>

<template>
  <AppDialog open :title="title" @close="emit('close')">
    <form @submit.prevent="pick">
      <div v-if="often?.length" class="mb-3 flex flex-wrap gap-1.5">
        <button
          v-for="o in often"
          :key="o.words"
          type="button"
          class="rounded border border-rule bg-raised px-2 py-1 text-[0.8125rem] font-semibold hover:bg-fold"
          @click="emit('pick', o.at.toISOString())">
          {{ o.words }}
        </button>
      </div>
      <label class="block text-xs font-semibold text-ink-2" for="when"
        >Day and time{{ sayZone(zone) ? `, ${sayZone(zone)}` : '' }}</label
      >
      <input
        id="when"
        v-model="when"
        type="datetime-local"
        required
        class="mt-1 rounded border border-rule bg-raised px-2 py-1.5"
        data-test="when" />
      <p v-if="saySkipped(when, zone)" role="status" class="mt-1 text-[0.8125rem] text-honey-ink" data-test="skipped">
        {{ saySkipped(when, zone) }}
      </p>
      <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
      <p class="mt-2 text-xs text-ink-2">{{ about }}</p>
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit" data-test="pick-when">
          {{ button }}
        </UiButton>
      </div>
    </form>
  </AppDialog>
</template>
