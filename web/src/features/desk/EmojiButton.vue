<script setup lang="ts">
/** A button that opens a picker of emoji; its words and pictures come with Sorta and are loaded when first asked for. */
import { nextTick, onBeforeUnmount, ref } from 'vue'
import { useKeys } from '@/composables/useKeys'
import dataSource from 'emoji-picker-element-data/en/cldr/data.json?url'

const emit = defineEmits<{ pick: [emoji: string]; close: [] }>()
const isOpen = ref(false)
const box = ref<HTMLElement | null>(null)

async function toggle(): Promise<void> {
  isOpen.value = !isOpen.value
  if (!isOpen.value) return
  const { Picker } = await import('emoji-picker-element')
  await nextTick()
  if (!box.value || box.value.childElementCount) return
  const picker = new Picker({ dataSource, locale: 'en' })
  picker.addEventListener('emoji-click', (event) => {
    if (event.detail.unicode) emit('pick', event.detail.unicode)
    isOpen.value = false
  })
  box.value.append(picker)
  setTimeout(() => picker.shadowRoot?.querySelector('input')?.focus(), 60)
}
function close(): void {
  isOpen.value = false
  emit('close')
}
useKeys({ Escape: close }, box)
function onOutside(event: Event): void {
  if (isOpen.value && !(event.target as HTMLElement).closest('[data-emoji]')) close()
}
document.addEventListener('pointerdown', onOutside)
onBeforeUnmount(() => document.removeEventListener('pointerdown', onOutside))
</script>

<template>
  <span class="relative" data-emoji>
    <button
      type="button"
      class="rounded px-1 text-base leading-none hover:bg-fold"
      aria-label="Emoji"
      title="Emoji"
      :aria-expanded="isOpen"
      data-test="emoji"
      @click="toggle">
      ☺
    </button>
    <div
      v-if="isOpen"
      ref="box"
      class="emoji-box absolute bottom-full left-0 z-30 mb-1 rounded-md border border-rule shadow-lg"
      role="dialog"
      aria-label="Emoji" />
  </span>
</template>

<style scoped>
.emoji-box :deep(emoji-picker) {
  --background: var(--color-raised);
  --border-size: 0;
  --border-radius: 6px;
  --button-hover-background: var(--color-fold);
  --button-active-background: var(--color-fold);
  --indicator-color: var(--color-pine);
  --input-border-color: var(--color-rule);
  --input-font-color: var(--color-ink);
  --category-font-color: var(--color-ink-2);
  --outline-color: var(--color-pine);
  --num-columns: 8;
  --emoji-size: 1.25rem;
  height: 300px;
}
</style>
