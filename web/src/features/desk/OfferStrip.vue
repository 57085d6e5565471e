<script setup lang="ts">
/** An answer that a rule offers: sent with one key, or changed first. */
import KeyCap from '@/components/ui/KeyCap.vue'
import type { Offer } from './useOffer'

defineProps<{ offer: Offer; isSending: boolean }>()
defineEmits<{ send: []; change: [] }>()
</script>

<template>
  <section
    class="mx-2 mb-2 shrink-0 rounded-lg border border-sky bg-raised px-3 py-2 text-[0.8125rem] md:mx-5"
    aria-label="An answer that a rule offers"
    data-test="offer">
    <p class="text-xs text-ink-2">
      The rule “{{ offer.rule }}” offers this {{ offer.public ? 'public reply' : 'private message' }}. Nothing is sent
      until you do.
    </p>
    <p class="mt-0.5 max-h-24 overflow-y-auto break-words whitespace-pre-wrap" dir="auto">{{ offer.text }}</p>
    <p class="mt-1 flex flex-wrap gap-2">
      <button
        type="button"
        class="inline-flex items-center gap-1.5 rounded px-2.5 py-0.5 font-semibold"
        :class="offer.public ? 'bg-pine text-on-pine' : 'bg-plum text-sheet'"
        :disabled="isSending"
        data-test="offer-send"
        @click="$emit('send')">
        Send it <KeyCap keys="Shift S" />
      </button>
      <button type="button" class="rounded px-2 py-0.5 font-semibold hover:bg-fold" @click="$emit('change')">
        Change it first
      </button>
    </p>
  </section>
</template>
