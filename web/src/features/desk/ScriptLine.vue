<script setup lang="ts">
/** One speech of the script: who and when in the gutter, the words in the column. */
import { computed } from 'vue'
import type { Message } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'

const props = defineProps<{ message: Message; zone: string; now: number; isNew: boolean }>()
defineEmits<{ again: [text: string] }>()
const { sayMember } = useDirectory()

const speaker = computed(() => {
  if (props.message.inbound) return props.message.author_name?.split(' ')[0] ?? props.message.author_handle
  return props.message.member_id ? sayMember(props.message.member_id) : 'Our page'
})
const audience = computed(() => (props.message.public ? 'public' : 'private'))
const delivery = computed(() => {
  const m = props.message
  switch (m.delivery) {
    case 'queued': {
      const left = Math.ceil((Date.parse(m.not_before ?? '') - props.now) / 1000)
      return left > 0 ? `Sending in ${left} s, ${audience.value}` : `Sending, ${audience.value}`
    }
    case 'sending':
      return `Sending, ${audience.value}`
    case 'waiting':
      return `Waiting, ${audience.value}`
    case 'delivered':
      return `Delivered, ${audience.value}`
    case 'refused':
      return 'Refused'
    case 'withdrawn':
      return 'Taken back before it went out'
    default:
      return `Written on the network itself, ${audience.value}`
  }
})
</script>

<template>
  <article class="grid grid-cols-[56px_minmax(0,1fr)] gap-2.5 md:grid-cols-[78px_minmax(0,1fr)] md:gap-3.5 py-2" :data-message="message.id">
    <div class="pt-0.5 text-right text-xs text-ink-2">
      <b class="block truncate text-[13px]" :class="message.inbound ? 'text-ink' : 'text-pine'">{{ speaker }}</b>
      <time :datetime="message.sent_at">{{ sayTime(message.sent_at, zone) }}</time>
    </div>
    <div :class="message.inbound ? '' : message.public ? 'border-l-[3px] border-pine pl-[11px]' : 'border-l-[3px] border-dashed border-plum pl-[11px]'">
      <p
        class="max-w-[56ch] text-[15px] leading-normal break-words whitespace-pre-wrap"
        :class="{ 'line-through decoration-ink-3': message.removed_at || message.delivery === 'withdrawn' }"
        dir="auto"
      >{{ message.body }}</p>
      <p v-if="isNew" class="mt-1 text-xs font-semibold text-plum">New since you began to write</p>
      <p v-if="message.removed_at" class="mt-1 text-xs text-ink-2">Removed by its author at {{ sayTime(message.removed_at, zone) }}; still readable here only</p>
      <p v-else-if="message.edited_at" class="mt-1 text-xs text-ink-2">Edited {{ sayTime(message.edited_at, zone) }}; the earlier text is in the trail</p>
      <template v-if="!message.inbound">
        <p
          class="mt-1 text-[12.5px] font-semibold"
          :class="message.delivery === 'refused' ? 'text-brick' : message.delivery === 'waiting' ? 'text-honey' : message.public ? 'text-pine' : 'text-plum'"
          data-test="delivery"
        >{{ delivery }}</p>
        <p v-if="message.problem && message.delivery !== 'delivered'" class="text-xs text-ink-2">
          {{ message.problem }}<span v-if="message.delivery === 'waiting'"> It will be tried again by itself.</span>
        </p>
        <button v-if="message.delivery === 'refused'" type="button" class="mt-1 text-[12.5px] font-semibold text-pine underline" @click="$emit('again', message.body)">
          Write it again
        </button>
      </template>
    </div>
  </article>
</template>
