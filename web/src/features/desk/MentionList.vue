<script setup lang="ts">
import type { Mentions } from './useMentions'

defineProps<{ mentions: Mentions }>()
</script>

<template>
  <ul
    v-if="mentions.found.value.length"
    :id="mentions.listId"
    role="listbox"
    data-inline
    aria-label="Colleagues"
    class="mx-3 mb-1 overflow-hidden rounded border border-honey-line bg-raised text-[0.8125rem]"
    data-test="mentions">
    <li
      v-for="(m, n) in mentions.found.value"
      :id="mentions.optionId(n)"
      :key="m.id"
      role="option"
      :aria-selected="n === mentions.active.value"
      class="flex min-h-6 cursor-pointer items-center gap-2 px-2 py-0.5"
      :class="n === mentions.active.value ? 'bg-honey-wash text-honey-ink' : ''"
      @mousedown.prevent
      @click="mentions.pick(n)">
      <b>{{ m.name }}</b>
    </li>
  </ul>
</template>
