<script setup lang="ts">
/** To whom: typing narrows it down, the best match is active, Enter gives to that one. Nothing is chosen beforehand. */
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
import { computed, ref } from 'vue'
import type { Directory, Member } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'

interface Choice {
  key: string
  name: string
  about: string
  member: number | null
  team: number | null
}
const props = defineProps<{ members: Member[]; teams: Directory['teams']; owner: number | null; team: number | null }>()
const emit = defineEmits<{ close: []; give: [to: number | null, team: number | null, note: string] }>()
const words = ref('')
const note = ref('')

const everybody = computed<Choice[]>(() => [
  ...props.members
    .filter((m) => m.may_sort)
    .map((m) => ({
      key: `m${m.id}`,
      name: m.name,
      about: m.id === props.owner ? 'has it now' : m.role,
      member: m.id,
      team: null,
    })),
  ...props.teams.map((t) => ({
    key: `t${t.id}`,
    name: t.name,
    about: t.id === props.team ? 'team, has it now' : 'team',
    member: null,
    team: t.id,
  })),
])
const nobody: Choice = {
  key: 'nobody',
  name: 'Nobody yet',
  about: 'take it from whoever has it',
  member: null,
  team: null,
}
/** How well a name fits what is typed: from its start, from the start of a word, anywhere; the lower the better. */
function rank(name: string, wanted: string): number {
  const plain = name.toLowerCase()
  if (plain.startsWith(wanted)) return 0
  if (plain.split(' ').some((part) => part.startsWith(wanted))) return 1
  return plain.includes(wanted) ? 2 : 3
}
const found = computed<Choice[]>(() => {
  const wanted = words.value.trim().toLowerCase()
  if (!wanted) return [...everybody.value, nobody]
  return [...everybody.value, nobody]
    .map((c) => ({ c, fits: rank(c.name, wanted) }))
    .filter((one) => one.fits < 3)
    .sort((a, b) => a.fits - b.fits)
    .map((one) => one.c)
})
function give(choice: Choice | null): void {
  if (choice) emit('give', choice.member, choice.team, note.value)
}
/** A list that is there from the start has no active line until one types or walks: Enter then gives to nobody. */
const submit = (): void => {
  if (words.value.trim()) give(found.value[0] ?? null)
}
</script>

<template>
  <AppDialog open title="Give it to" @close="emit('close')">
    <form @submit.prevent="submit">
      <Combobox :model-value="null" @update:model-value="give">
        <ComboboxInput
          class="w-full rounded border border-rule bg-raised px-2 py-1.5"
          placeholder="A colleague or a team …"
          aria-label="Colleague or team"
          autocomplete="off"
          data-test="give-to"
          @change="words = $event.target.value" />
        <ComboboxOptions static data-inline class="mt-1 max-h-56 scroll-quiet overflow-y-auto">
          <ComboboxOption v-for="c in found" :key="c.key" v-slot="{ active }" :value="c" as="template">
            <li
              class="flex cursor-pointer items-baseline gap-2 rounded px-2 py-1.5"
              :class="active ? 'bg-pine-wash text-pine' : 'hover:bg-fold'"
              :data-give="c.key">
              <span class="font-semibold">{{ c.name }}</span><span class="ml-auto text-xs text-ink-2">{{
                c.about
              }}</span>
            </li>
          </ComboboxOption>
        </ComboboxOptions>
      </Combobox>
      <p v-if="!found.length" class="px-2 py-3 text-[0.8125rem] text-ink-2">Nobody here is called so.</p>
      <label class="mt-3 block text-xs font-semibold text-honey" for="give-note"
        >A note with it, for us only (if you like): write it first, then choose</label
      >
      <textarea
        id="give-note"
        v-model="note"
        rows="2"
        maxlength="4000"
        class="mt-1 w-full rounded border border-honey-line bg-honey-wash p-2 text-honey-ink" />
      <div class="mt-2 flex justify-end">
        <UiButton @click="emit('close')">Cancel</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
