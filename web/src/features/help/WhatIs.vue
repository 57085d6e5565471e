<script setup lang="ts">
/** A small question mark behind a word, which leads to what it means. */
import { RouterLink } from 'vue-router'
import { useSession } from '@/stores/session'

defineProps<{ id: string; word: string }>()
const session = useSession()
</script>

<template>
  <RouterLink
    class="inline-grid size-6 place-items-center rounded-full align-middle text-xs font-bold text-ink-2 hover:text-pine hover:underline"
    :to="{ name: 'words', params: { workspace: String(session.workspaceId) }, hash: `#${id}` }"
    :aria-label="`What ${word} means`"
    ><span aria-hidden="true">?</span></RouterLink
  >
</template>
