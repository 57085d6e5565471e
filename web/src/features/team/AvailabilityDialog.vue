<script setup lang="ts">
/** When a member works and how much they take. */
import { ref } from 'vue'
import type { Availability, MemberLoad } from '@/api/types'
import { fromField, saySkipped, sayZone, toField } from '@/lib/words'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'

const props = defineProps<{ member: MemberLoad; problem: string | null; zone: string }>()
const emit = defineEmits<{ close: []; save: [given: Availability] }>()
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const asField = (at: string | null): string => (at ? toField(at, props.zone) : '')
function asInstant(text: string): string | null {
  const at = fromField(text, props.zone)
  return at === null ? null : new Date(at).toISOString()
}
const capacity = ref(props.member.capacity)
const languages = ref(props.member.languages.join(', '))
const from = ref(asField(props.member.away_from))
const until = ref(asField(props.member.away_until))
const reason = ref(props.member.away_reason ?? '')
const hasShift = ref(props.member.shift !== null)
const shift = ref(props.member.shift ?? ['9-17', '9-17', '9-17', '9-17', '9-17', 'closed', 'closed'])
const field = 'rounded border border-rule bg-raised px-2 py-1'
function save(): void {
  emit('save', {
    capacity: capacity.value,
    languages: languages.value.split(/[\s,]+/).filter(Boolean),
    away_from: asInstant(from.value),
    away_until: asInstant(until.value),
    away_reason: reason.value,
    shift: hasShift.value ? shift.value : null,
  })
}
</script>

<template>
  <AppDialog open :title="`When ${member.name.split(' ')[0]} works`" @close="emit('close')">
    <form class="grid gap-3 text-[0.8125rem]" @submit.prevent="save">
      <label
        >Takes at most
        <input
          v-model.number="capacity"
          type="number"
          min="0"
          max="1000"
          :class="[field, 'w-20']"
          data-test="capacity" />
        conversations at a time</label
      >
      <label
        >Languages, such as en, es; none for any<input v-model="languages" :class="[field, 'mt-0.5 block w-full']"
      /></label>
      <fieldset class="grid gap-1.5">
        <legend class="mb-1 font-semibold">Away{{ sayZone(zone) ? `, ${sayZone(zone)}` : '' }}</legend>
        <label>From <input v-model="from" type="datetime-local" :class="field" data-test="away-from" /></label
        ><label>Until <input v-model="until" type="datetime-local" :class="field" /></label>
        <p v-if="saySkipped(from, zone) || saySkipped(until, zone)" role="status" class="text-honey-ink">
          {{ saySkipped(from, zone) }} {{ saySkipped(until, zone) }}
        </p>
        <label>Reason <input v-model="reason" maxlength="200" :class="field" /></label>
        <button
          v-if="from || until"
          type="button"
          class="justify-self-start font-semibold text-pine underline"
          @click="((from = ''), (until = ''), (reason = ''))">
          Back again
        </button>
      </fieldset>
      <label class="flex items-center gap-1.5"
        ><input v-model="hasShift" type="checkbox" class="accent-pine" />A shift of their own</label
      >
      <div v-if="hasShift" class="grid gap-1">
        <label v-for="(day, n) in DAYS" :key="day" class="grid grid-cols-[90px_1fr] items-center"
          >{{ day }}<input v-model="shift[n]" :class="field"
        /></label>
      </div>
      <p v-if="problem" role="alert" class="text-brick">{{ problem }}</p>
      <div class="flex justify-end gap-2">
        <UiButton @click="emit('close')"> Cancel</UiButton><UiButton kind="main" type="submit">Save</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
