<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Member } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'

const props = defineProps<{ members: Member[]; owner: number | null }>()
const emit = defineEmits<{ close: []; give: [to: number | null, note: string] }>()
const to = ref<number | null>(props.owner)
const note = ref('')
const able = computed(() => props.members.filter((m) => m.role !== 'observer'))
</script>

<template>
  <AppDialog open title="Give it to" @close="emit('close')">
    <form @submit.prevent="emit('give', to, note)">
      <fieldset class="grid grid-cols-2 gap-1">
        <legend class="sr-only">Colleague</legend>
        <label v-for="m in able" :key="m.id" class="flex items-center gap-2 rounded px-2 py-1.5 hover:bg-fold" :class="to === m.id ? 'bg-pine-wash' : ''">
          <input v-model="to" type="radio" name="to" :value="m.id" class="accent-pine" />{{ m.name }}
        </label>
        <label class="flex items-center gap-2 rounded px-2 py-1.5 hover:bg-fold" :class="to === null ? 'bg-pine-wash' : ''">
          <input v-model="to" type="radio" name="to" :value="null" class="accent-pine" />Nobody yet
        </label>
      </fieldset>
      <label class="mt-3 block text-xs font-semibold text-honey" for="give-note">A note with it, for us only (if you like)</label>
      <textarea id="give-note" v-model="note" rows="3" maxlength="4000" class="mt-1 w-full rounded border border-honey-line bg-honey-wash p-2 text-honey-ink" />
      <div class="mt-3 flex justify-end gap-2">
        <button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="emit('close')">Cancel</button>
        <button type="submit" class="rounded bg-pine px-3 py-1.5 font-bold text-on-pine">Give it</button>
      </div>
    </form>
  </AppDialog>
</template>
