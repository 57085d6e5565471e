<script setup lang="ts">
/** A button of a form or a dialog: the one it is there for, one beside it, or one that nobody takes back. */
withDefaults(defineProps<{ kind?: 'main' | 'quiet' | 'danger' }>(), { kind: 'quiet' })
const LOOKS = {
  main: 'bg-pine font-bold text-on-pine',
  quiet: 'font-semibold hover:bg-fold',
  danger: 'bg-brick font-bold text-sheet',
}
</script>

<template>
  <button type="button" class="rounded px-3 py-1.5 disabled:opacity-60" :class="LOOKS[kind]"><slot /></button>
</template>
