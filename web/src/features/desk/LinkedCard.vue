<script setup lang="ts">
/** What is one matter with the open conversation: what began in public, or where it goes on in private. */
import type { Linked } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { MOVE_WORDS, sayTime } from '@/lib/words'

defineProps<{ linked: Linked; zone: string }>()
defineEmits<{ open: [] }>()
const { sayMember } = useDirectory()
</script>

<template>
  <section
    class="mb-3 rounded-md border border-rule bg-paper px-3 py-2 text-[0.8125rem]"
    :aria-label="linked.public ? 'How it began in public' : 'How it goes on in private'"
    data-test="linked">
    <b class="block">{{
      linked.public
        ? `Began in public${linked.post_title ? `, under “${linked.post_title}”` : ''}`
        : 'Goes on in private'
    }}</b>
    <p v-for="m in linked.messages" :key="m.id" class="mt-1">
      <span class="text-xs text-ink-2"
        >{{ m.inbound ? linked.person_name : sayMember(m.member_id) }}, {{ m.public ? 'in public' : 'in private' }},
        {{ sayTime(m.sent_at, zone) }}</span
      >
      <span class="line-clamp-3" dir="auto">{{ m.body || 'No words, only an attachment' }}</span>
    </p>
    <p class="mt-1 text-xs text-ink-2">
      {{ MOVE_WORDS[linked.move] }}<template v-if="linked.owner_id">, {{ sayMember(linked.owner_id) }}</template
      >.
      <button type="button" class="underline" @click="$emit('open')">
        {{ linked.public ? 'Open the public one' : 'Open the private one' }}
      </button>
    </p>
  </section>
</template>
