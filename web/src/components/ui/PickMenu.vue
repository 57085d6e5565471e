<script setup lang="ts" generic="T extends string | number">
/** A button that opens a list of choices, each with an optional key; `open()` does the same from a key. */
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { ref } from 'vue'
import { useMemory } from '@/composables/useFocusBack'

defineProps<{
  label: string
  choices: { value: T; text: string; hint?: string }[]
  disabled?: boolean
  align?: 'left' | 'right'
  plain?: boolean
  up?: boolean
}>()
const emit = defineEmits<{ pick: [value: T]; opening: [] }>()
const button = ref<{ $el: HTMLElement } | null>(null)
/** Opened by a key, it gives the focus back to where the key was pressed: an arrow that walks must not open it again. */
const { remember, giveBack } = useMemory(() => button.value?.$el)
function openByKey(): void {
  remember()
  button.value?.$el.click()
}
defineExpose({ open: openByKey })
</script>

<template>
  <Menu v-slot="{ open }" as="div" class="relative">
    <MenuButton
      ref="button"
      :disabled="disabled"
      @click="emit('opening')"
      class="inline-flex max-w-full items-center gap-1.5 rounded px-2 py-[3px] text-[0.8125rem] whitespace-nowrap hover:bg-fold disabled:opacity-50 disabled:hover:bg-transparent"
      :class="plain ? 'font-semibold' : 'border border-rule bg-raised'">
      <slot>{{ label }}</slot>
    </MenuButton>
    <MenuItems
      v-if="open"
      static
      @vue:unmounted="giveBack"
      class="absolute z-30 w-max max-w-[80vw] min-w-44 rounded-md border border-rule bg-raised py-1 shadow-lg focus:outline-none"
      :class="[align === 'right' ? 'right-0' : 'left-0', up ? 'bottom-full mb-1' : 'mt-1']"
      :aria-label="label">
      <MenuItem v-for="choice in choices" :key="choice.value" v-slot="{ active }">
        <button
          type="button"
          class="flex w-full items-baseline justify-between gap-6 px-3 py-1.5 text-left text-[0.8125rem]"
          :class="active ? 'bg-pine-wash text-pine' : ''"
          @click="emit('pick', choice.value)">
          <span>{{ choice.text }}</span>
          <span v-if="choice.hint" class="text-xs whitespace-nowrap text-ink-2">{{ choice.hint }}</span>
        </button>
      </MenuItem>
    </MenuItems>
  </Menu>
</template>
