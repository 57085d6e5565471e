<script setup lang="ts">
/** What is to be done about a person, when and by whom. */
import { ref } from 'vue'
import type { Member } from '@/api/types'

const props = defineProps<{ members: Member[]; me: number }>()
const emit = defineEmits<{ add: [words: string, dueAt: string, member: number] }>()
const words = ref('')
const member = ref(props.me)
/** Tomorrow at nine on this device's clock, as a field for time wants it. */
function getTomorrow(): string {
  const at = new Date(Date.now() + 86_400_000)
  at.setHours(9, 0, 0, 0)
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16)
}
const due = ref(getTomorrow())
function add(): void {
  if (!words.value.trim() || !due.value) return
  emit('add', words.value, new Date(due.value).toISOString(), member.value)
  words.value = ''
}
</script>

<template>
  <form class="mt-1.5 flex flex-wrap gap-1.5 text-[13px]" @submit.prevent="add">
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
      aria-label="When" />
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
  </form>
</template>
