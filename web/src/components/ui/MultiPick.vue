<script setup lang="ts" generic="T extends string | number">
/** Several of a list, shown as one line; a listbox that stays open while one picks. */
import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/vue'
import { computed } from 'vue'

const props = defineProps<{ label: string; choices: readonly { value: T; text: string }[]; empty?: string }>()
const model = defineModel<T[]>({ required: true })
const said = computed(
  () =>
    props.choices
      .filter((c) => model.value.includes(c.value))
      .map((c) => c.text)
      .join(', ') ||
    (props.empty ?? 'Choose …'),
)
</script>

<template>
  <Listbox v-model="model" as="div" class="relative inline-block max-w-full" multiple>
    <ListboxButton
      class="inline-flex max-w-full items-center gap-1.5 rounded border border-rule bg-raised px-2 py-[3px] text-left text-[0.8125rem]"
      :aria-label="`${label}: ${said}`"
      ><span class="truncate">{{ said }}</span> <span aria-hidden="true" class="text-ink-2">▾</span></ListboxButton
    >
    <ListboxOptions
      class="absolute left-0 z-30 mt-1 max-h-64 min-w-52 scroll-quiet overflow-y-auto rounded-md border border-rule bg-raised py-1 shadow-lg focus:outline-none"
      :aria-label="label">
      <ListboxOption v-for="c in choices" :key="c.value" v-slot="{ active, selected }" :value="c.value" as="template">
        <li
          class="flex cursor-pointer items-center gap-2 px-3 py-1 text-[0.8125rem]"
          :class="active ? 'bg-pine-wash text-pine' : ''">
          <span class="inline-block w-3 font-bold" aria-hidden="true">{{ selected ? '✓' : '' }}</span>{{ c.text }}
        </li>
      </ListboxOption>
    </ListboxOptions>
  </Listbox>
</template>
