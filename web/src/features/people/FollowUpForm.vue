<script setup lang="ts">
/** What is to be done about a person, when and by whom. */
import { ref } from 'vue'
import type { Member } from '@/api/types'
import { fromField, saySkipped, sayZone, toField } from '@/lib/words'

const props = defineProps<{ members: Member[]; me: number; zone: string }>()
const emit = defineEmits<{ add: [words: string, dueAt: string, member: number] }>()
const words = ref('')
const member = ref(props.me)
/** Tomorrow at nine on the workspace's clock. */
const due = ref(`${toField(Date.now() + 86_400_000, props.zone).slice(0, 10)}T09:00`)
function add(): void {
  const at = fromField(due.value, props.zone)
  if (!words.value.trim() || at === null) return
  emit('add', words.value, new Date(at).toISOString(), member.value)
  words.value = ''
}
</script>

<template>
  <form class="mt-1.5 flex flex-wrap gap-1.5 text-[0.8125rem]" @submit.prevent="add">
    <input
      v-model="words"
      maxlength="400"
      class="min-w-48 flex-1 rounded border border-rule bg-raised px-2 py-1"
      placeholder="Such as: ask whether the refund arrived"
      aria-label="What is to be done"
      data-test="follow-up-words" />
    <input
      v-model="due"
      type="datetime-local"
      class="rounded border border-rule bg-raised px-2 py-1"
      :aria-label="sayZone(zone) ? `When, ${sayZone(zone)}` : 'When'"
      :title="sayZone(zone)" />
    <select v-model="member" class="rounded border border-rule bg-raised px-2 py-1" aria-label="By whom">
      <option v-for="m in members.filter((one) => one.may_sort)" :key="m.id" :value="m.id">
        {{ m.id === me ? 'Me' : m.name }}
      </option>
    </select>
    <button
      type="submit"
      class="rounded bg-pine px-2.5 font-bold text-on-pine disabled:opacity-50"
      :disabled="!words.trim()">
      Remind
    </button>
    <p v-if="saySkipped(due, zone)" role="status" class="w-full text-honey-ink">{{ saySkipped(due, zone) }}</p>
  </form>
</template>
