<script setup lang="ts">
/** One name, out of what there is or new: a tag, a view. Enter takes the first that fits. */
import { computed, ref } from 'vue'
import AppDialog from '@/components/ui/AppDialog.vue'

const props = defineProps<{
  title: string
  label: string
  known: string[]
  on: string[]
  button: string
  share?: boolean
  /** What is made when the name is a new one, which is asked first: a slip of the finger makes nothing. */
  makes?: string
}>()
const emit = defineEmits<{ close: []; name: [name: string, on: boolean, shared: boolean] }>()
const name = ref('')
const shared = ref(false)
const fitting = computed(() =>
  props.known.filter((k) => k.toLowerCase().includes(name.value.trim().toLowerCase())).slice(0, 24),
)
const pick = (known: string): void => emit('name', known, !props.on.includes(known), shared.value)
/** The new name that one has been asked about. */
const asked = ref('')
const isAsked = computed(() => asked.value !== '' && asked.value === name.value.trim())
/** Names that begin alike, or hold what was written but for a letter or two. */
const near = computed(() => {
  const said = asked.value.toLowerCase()
  const pairs = (text: string): string[] => [...text].slice(1).map((letter, n) => `${text[n] ?? ''}${letter}`)
  const mine = new Set(pairs(said))
  const likeness = (k: string): number => {
    const theirs = pairs(k.toLowerCase())
    return theirs.filter((p) => mine.has(p)).length / Math.max(theirs.length, mine.size, 1)
  }
  return props.known.filter((k) => likeness(k) >= 0.5).slice(0, 3)
})
function submit(): void {
  const said = name.value.trim()
  if (!said) return
  const known =
    props.known.find((k) => k.toLowerCase() === said.toLowerCase()) ??
    fitting.value.find((k) => k.toLowerCase().startsWith(said.toLowerCase()))
  if (known === undefined && props.makes && !isAsked.value) asked.value = said
  else emit('name', known ?? said, true, shared.value)
}
</script>

<template>
  <AppDialog open :title="title" @close="emit('close')">
    <form @submit.prevent="submit">
      <label class="block text-xs font-semibold text-ink-2" for="name">{{ label }}</label>
      <input
        id="name"
        v-model="name"
        maxlength="80"
        autocomplete="off"
        class="mt-1 w-full rounded border border-rule bg-raised px-2 py-1.5"
        data-test="name" />
      <p v-if="known.length" class="mt-2 flex flex-wrap gap-1">
        <button
          v-for="k in fitting"
          :key="k"
          type="button"
          class="rounded px-2 py-0.5 text-[0.8125rem]"
          :class="on.includes(k) ? 'bg-pine-wash font-semibold text-pine' : 'bg-fold hover:underline'"
          :aria-pressed="on.includes(k)"
          @click="pick(k)">
          {{ k }}
        </button>
      </p>
      <div
        v-if="isAsked"
        role="status"
        class="mt-2 rounded bg-honey-wash px-3 py-2 text-honey-ink"
        data-test="new-name">
        <p>There is no {{ makes }} called “{{ asked }}” yet. Enter once more makes it.</p>
        <p v-if="near.length" class="mt-1 flex flex-wrap items-baseline gap-2">
          Or did you mean
          <button v-for="k in near" :key="k" type="button" class="font-semibold underline" @click="pick(k)">
            {{ k }}
          </button>
        </p>
      </div>
      <label v-if="share" class="mt-2 flex items-center gap-2"
        ><input v-model="shared" type="checkbox" class="accent-pine" />Everybody here can use it</label
      >
      <div class="mt-3 flex justify-end gap-2">
        <button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="emit('close')">
          Cancel
        </button>
        <button type="submit" class="rounded bg-pine px-3 py-1.5 font-bold text-on-pine">
          {{ isAsked ? `Make the ${makes}` : button }}
        </button>
      </div>
    </form>
  </AppDialog>
</template>
