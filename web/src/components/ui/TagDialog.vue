<script setup lang="ts">
/**
 * Tags put on and taken off, several at once. What is written narrows them; Enter takes the first that fits and is done,
 * a comma takes it and goes on. A name that is new is asked about first: a slip of the finger makes nothing.
 */
import { computed, ref } from 'vue'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { listAlike } from '@/lib/alike'

const props = defineProps<{ title: string; known: string[]; on: string[] }>()
const emit = defineEmits<{ close: []; tag: [changes: { name: string; on: boolean }[]] }>()
const MOST_SHOWN = 24
const name = ref('')
/** What is to become otherwise, by name. */
const changes = ref(new Map<string, boolean>())
const isOn = (tag: string): boolean => changes.value.get(tag) ?? props.on.includes(tag)
const listed = computed(() => [
  ...new Set([...[...changes.value.keys()].filter((t) => !props.known.includes(t)), ...props.on, ...props.known]),
])
const fitting = computed(() => {
  const said = name.value.trim().toLowerCase()
  const found = listed.value.filter((t) => t.toLowerCase().includes(said))
  // What begins so comes before what holds it.
  return [...found].sort((a, b) => Number(b.toLowerCase().startsWith(said)) - Number(a.toLowerCase().startsWith(said)))
})
const shown = computed(() => fitting.value.slice(0, MOST_SHOWN))
const asked = ref('')
const isAsked = computed(() => asked.value !== '' && asked.value === name.value.trim())
const near = computed(() => listAlike(asked.value, props.known))
function set(tag: string, on: boolean): void {
  const next = new Map(changes.value)
  if (props.on.includes(tag) === on) next.delete(tag)
  else next.set(tag, on)
  changes.value = next
  name.value = ''
}
/** Takes what is written; false when it is new and is asked about. */
function takeWritten(): boolean {
  const said = name.value.trim()
  if (!said) return true
  const found =
    listed.value.find((t) => t.toLowerCase() === said.toLowerCase()) ??
    fitting.value.find((t) => t.toLowerCase().startsWith(said.toLowerCase()))
  if (found === undefined && !isAsked.value) {
    asked.value = said
    return false
  }
  set(found ?? said, found === undefined || !isOn(found))
  return true
}
function submit(): void {
  if (!takeWritten()) return
  const made = [...changes.value].map(([tag, on]) => ({ name: tag, on }))
  if (made.length) emit('tag', made)
  else emit('close')
}
function onInput(): void {
  if (!name.value.endsWith(',')) return
  name.value = name.value.slice(0, -1)
  takeWritten()
}
const says = computed(() => {
  const to = (on: boolean): string[] => [...changes.value].filter(([, o]) => o === on).map(([t]) => t)
  return [to(true).length ? `On: ${to(true).join(', ')}` : '', to(false).length ? `Off: ${to(false).join(', ')}` : '']
    .filter(Boolean)
    .join('. ')
})
</script>

<template>
  <AppDialog open :title="title" @close="emit('close')">
    <form @submit.prevent="submit">
      <label class="block text-xs font-semibold text-ink-2" for="name">Tags; a comma goes on to the next</label>
      <input
        id="name"
        v-model="name"
        maxlength="40"
        autocomplete="off"
        class="mt-1 w-full rounded border border-rule bg-raised px-2 py-1.5"
        data-test="name"
        @input="onInput" />
      <p class="mt-2 flex flex-wrap gap-1" role="group" aria-label="Tags">
        <button
          v-for="t in shown"
          :key="t"
          type="button"
          class="min-h-6 rounded px-2 py-0.5 text-[0.8125rem]"
          :class="isOn(t) ? 'bg-pine-wash font-semibold text-pine' : 'bg-fold hover:underline'"
          :aria-pressed="isOn(t)"
          @click="set(t, !isOn(t))">
          {{ t }}<span v-if="isOn(t)" aria-hidden="true"> ✓</span>
        </button>
        <span v-if="fitting.length > shown.length" class="px-1 py-0.5 text-xs text-ink-2"
          >and {{ fitting.length - shown.length }} more: write to narrow them</span
        >
      </p>
      <div
        v-if="isAsked"
        role="status"
        class="mt-2 rounded bg-honey-wash px-3 py-2 text-honey-ink"
        data-test="new-name">
        <p>There is no tag called “{{ asked }}” yet. Enter once more makes it.</p>
        <p v-if="near.length" class="mt-1 flex flex-wrap items-baseline gap-2">
          Or did you mean
          <button v-for="k in near" :key="k" type="button" class="font-semibold underline" @click="set(k, true)">
            {{ k }}
          </button>
        </p>
      </div>
      <p v-if="says" role="status" class="mt-2 text-[0.8125rem] text-ink-2" data-test="tag-changes">{{ says }}</p>
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="main" type="submit">
          {{ isAsked ? 'Make the tag' : 'Tag' }}
        </UiButton>
      </div>
    </form>
  </AppDialog>
</template>
