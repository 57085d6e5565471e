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
}>()
const emit = defineEmits<{ close: []; name: [name: string, on: boolean, shared: boolean] }>()
const name = ref('')
const shared = ref(false)
const fitting = computed(() =>
  props.known.filter((k) => k.toLowerCase().includes(name.value.trim().toLowerCase())).slice(0, 24),
)
const pick = (known: string): void => emit('name', known, !props.on.includes(known), shared.value)
function submit(): void {
  const said = name.value.trim()
  if (said)
    emit(
      'name',
      props.known.find((k) => k.toLowerCase() === said.toLowerCase()) ??
        fitting.value.find((k) => k.toLowerCase().startsWith(said.toLowerCase())) ??
        said,
      true,
      shared.value,
    )
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
      <label v-if="share" class="mt-2 flex items-center gap-2"
        ><input v-model="shared" type="checkbox" class="accent-pine" />Everybody here can use it</label
      >
      <div class="mt-3 flex justify-end gap-2">
        <button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="emit('close')">
          Cancel
        </button>
        <button type="submit" class="rounded bg-pine px-3 py-1.5 font-bold text-on-pine">{{ button }}</button>
      </div>
    </form>
  </AppDialog>
</template>
