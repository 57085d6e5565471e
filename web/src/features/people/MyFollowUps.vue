<script setup lang="ts">
/** What I have to do about people, soonest first. */
import { RouterLink } from 'vue-router'
import type { DueFollowUp } from '@/api/types'
import { sayTime } from '@/lib/words'

defineProps<{ followUps: DueFollowUp[]; workspaceId: number; zone: string; now: number }>()
defineEmits<{ done: [id: number] }>()
</script>

<template>
  <div class="min-h-0 scroll-quiet overflow-y-auto bg-sheet px-6 py-5">
    <h1 class="mb-2 font-name text-xl font-bold">Your follow-ups</h1>
    <p v-if="!followUps.length" class="text-ink-2">
      Nothing to follow up. Choose somebody on the left to see everything about them.
    </p>
    <p
      v-for="f in followUps"
      :key="f.id"
      class="flex items-baseline gap-3 border-b border-rule-soft py-2"
      data-test="my-follow-up">
      <b class="whitespace-nowrap" :class="Date.parse(f.due_at) < now ? 'text-brick' : 'text-honey'"
        >{{ sayTime(f.due_at, zone) }}{{ Date.parse(f.due_at) < now ? ', due' : '' }}</b
      >
      <span class="min-w-0 flex-1 break-words"
        >{{ f.words }}:
        <RouterLink
          class="font-semibold underline"
          :to="{ name: 'people', params: { workspace: String(workspaceId), person: String(f.person_id) } }"
          >{{ f.person_name }}</RouterLink
        ></span
      >
      <button type="button" class="underline" @click="$emit('done', f.id)">Done</button>
    </p>
  </div>
</template>
