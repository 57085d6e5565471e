<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Directory, Member } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'

const props = defineProps<{ members: Member[]; teams: Directory['teams']; owner: number | null; team: number | null }>()
const emit = defineEmits<{ close: []; give: [to: number | null, team: number | null, note: string] }>()
const to = ref<string>(props.owner ? `m${props.owner}` : props.team ? `t${props.team}` : '')
const number = (kind: string): number | null => (to.value.startsWith(kind) ? Number(to.value.slice(1)) : null)
const note = ref('')
const able = computed(() => props.members.filter((m) => m.may_sort))
</script>

<template>
  <AppDialog open title="Give it to" @close="emit('close')">
    <form @submit.prevent="emit('give', number('m'), number('t'), note)">
      <fieldset class="grid grid-cols-2 gap-1">
        <legend class="sr-only">Colleague or team</legend>
        <label
          v-for="m in able"
          :key="m.id"
          class="flex items-center gap-2 rounded px-2 py-1.5 hover:bg-fold"
          :class="to === `m${m.id}` ? 'bg-pine-wash' : ''">
          <input v-model="to" type="radio" name="to" :value="`m${m.id}`" class="accent-pine" />{{ m.name }}
        </label>
        <label
          v-for="t in teams"
          :key="`t${t.id}`"
          class="flex items-center gap-2 rounded px-2 py-1.5 hover:bg-fold"
          :class="to === `t${t.id}` ? 'bg-pine-wash' : ''">
          <input v-model="to" type="radio" name="to" :value="`t${t.id}`" class="accent-pine" />{{ t.name }}, team
        </label>
        <label
          class="flex items-center gap-2 rounded px-2 py-1.5 hover:bg-fold"
          :class="to === '' ? 'bg-pine-wash' : ''">
          <input v-model="to" type="radio" name="to" value="" class="accent-pine" />Nobody yet
        </label>
      </fieldset>
      <label class="mt-3 block text-xs font-semibold text-honey" for="give-note"
        >A note with it, for us only (if you like)</label
      >
      <textarea
        id="give-note"
        v-model="note"
        rows="3"
        maxlength="4000"
        class="mt-1 w-full rounded border border-honey-line bg-honey-wash p-2 text-honey-ink" />
      <div class="mt-3 flex justify-end gap-2">
        <button type="button" class="rounded px-3 py-1.5 font-semibold hover:bg-fold" @click="emit('close')">
          Cancel
        </button>
        <button type="submit" class="rounded bg-pine px-3 py-1.5 font-bold text-on-pine">Give it</button>
      </div>
    </form>
  </AppDialog>
</template>
