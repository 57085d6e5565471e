<script setup lang="ts">
/** Saved replies by name, shortcut or words; what speaks for a suggested one stands beside it. */
import { computed, ref } from 'vue'
import type { OfferedReply } from '@/api/types'
import { hasWords, listWanted } from '@/lib/savedReplies'
import WordPicker from './WordPicker.vue'

const props = defineProps<{ offered: OfferedReply[] }>()
defineEmits<{ close: []; pick: [one: OfferedReply] }>()
const words = ref('')
const found = computed(() => {
  const wanted = listWanted(words.value)
  // A shortcut typed in full is what is meant.
  return props.offered
    .filter((o) => hasWords(o, wanted))
    .sort((a, b) => Number(b.shortcut === wanted[0]) - Number(a.shortcut === wanted[0]))
})
const nothing = computed(() => {
  if (found.value.length) return null
  return props.offered.length
    ? 'No saved reply here has all of these words.'
    : 'No saved reply fits this conversation yet. They are written in Setup.'
})
const sayUse = (o: OfferedReply): string =>
  o.uses ? `used ${o.uses === 1 ? 'once' : `${o.uses} times`}` : 'not used yet'
</script>

<template>
  <WordPicker
    v-model="words"
    label="Saved replies"
    find="Find a saved reply"
    placeholder="A saved reply: its name, shortcut or words …"
    test="reply"
    :found="found"
    :nothing="nothing"
    @close="$emit('close')"
    @pick="(one) => $emit('pick', one)">
    <template #default="{ one: o }">
      <p class="flex items-baseline gap-3">
        <b>{{ o.name }}</b><code v-if="o.shortcut" class="text-xs text-ink-2">/{{ o.shortcut }}</code
        ><span class="ml-auto text-xs whitespace-nowrap text-ink-2">{{ sayUse(o) }}</span>
      </p>
      <p class="line-clamp-2 text-[0.8125rem] text-ink-2" dir="auto">{{ o.text }}</p>
      <p v-if="o.suggestion" class="mt-0.5 truncate text-xs text-sky">
        Fits {{ o.suggestion.fits }}: answered “{{ o.suggestion.like }}” ({{
          Math.round(o.suggestion.likeness * 100)
        }}
        % like this), {{ o.suggestion.times === 1 ? 'once' : `${o.suggestion.times} times in all` }}
      </p>
    </template>
  </WordPicker>
</template>
