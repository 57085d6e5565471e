<script setup lang="ts">
/** An answer that is to be sent later: when, whose, and whether it still will. */
import { ref } from 'vue'
import type { Scheduled } from '@/api/types'
import WhenDialog from '@/components/ui/WhenDialog.vue'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'
import FileChips from '@/components/ui/FileChips.vue'
import { listOften } from './later'

defineProps<{ scheduled: Scheduled; zone: string; me: number; problem: string | null }>()
const emit = defineEmits<{ change: [sendAt: string]; cancel: [] }>()
const { sayMember } = useDirectory()
const isChanging = ref(false)
function change(at: string): void {
  isChanging.value = false
  emit('change', at)
}
</script>

<template>
  <section
    class="mx-2 mb-2 shrink-0 rounded-lg border border-dashed px-3 py-1.5 text-[0.8125rem] md:mx-5"
    :class="scheduled.public ? 'border-pine' : 'border-plum'"
    aria-label="To be sent later"
    data-test="later">
    <p class="flex flex-wrap items-baseline gap-x-3">
      <b :class="scheduled.public ? 'text-pine' : 'text-plum'"
        >{{ scheduled.public ? 'Public reply' : 'Private message' }} at {{ sayTime(scheduled.send_at, zone) }}</b
      >
      <span class="text-ink-2"
        >by {{ sayMember(scheduled.author_id) }}{{ scheduled.settle ? ', and settle' : '' }}</span
      >
      <span v-if="scheduled.author_id === me" class="ml-auto flex gap-3">
        <button
          v-if="scheduled.overtaken"
          type="button"
          class="font-semibold text-pine underline"
          @click="emit('change', scheduled.send_at)">
          It is still right
        </button>
        <button type="button" class="underline" data-test="later-time" @click="isChanging = true">Another time</button>
        <button type="button" class="underline" data-test="later-back" @click="emit('cancel')">Take it back</button>
      </span>
    </p>
    <p class="line-clamp-2 break-words" dir="auto">{{ scheduled.body }}</p>
    <FileChips v-if="scheduled.attachments.length" class="mt-1" :files="scheduled.attachments" />
    <p v-if="scheduled.overtaken" class="font-semibold text-brick">
      They have written since: it does not go out unless its author says that it is still right.
    </p>
    <p v-if="problem" role="alert" class="text-brick">{{ problem }}</p>
    <WhenDialog
      :zone="zone"
      v-if="isChanging"
      title="Send it at"
      about="It is checked again then: it does not go if they write before."
      button="Send then"
      :often="listOften(zone)"
      :from="scheduled.send_at"
      @close="isChanging = false"
      @pick="change" />
  </section>
</template>
