<script setup lang="ts">
/** Of what somebody is told, by which ways: a box for each. What cannot be used here has no column. */
import type { AlertDefault, AlertWants } from '@/api/types'

const props = defineProps<{ rows: AlertDefault[]; canMail: boolean; canText: boolean; disabled?: boolean }>()
const emit = defineEmits<{ set: [occasion: string, wants: AlertWants] }>()
type Way = 'here' | 'device' | 'mail' | 'text'
const WAYS: [Way, string, string][] = [
  ['here', 'Here', 'here'],
  ['device', 'On the device', 'on the device, while Sorta is open elsewhere on it'],
  ['mail', 'By mail', 'by mail'],
  ['text', 'By text message', 'by text message'],
]
const ways = (): typeof WAYS =>
  WAYS.filter(([way]) => (way === 'mail' ? props.canMail : way === 'text' ? props.canText : true))

function change(row: AlertDefault, part: Partial<AlertWants>): void {
  const { here, device, mail, text, minutes } = row
  emit('set', row.occasion, { here, device, mail, text, minutes, ...part })
}
function setMinutes(row: AlertDefault, event: Event): void {
  const minutes = Math.round(Number((event.target as HTMLInputElement).value))
  if (minutes >= 1 && minutes <= 1440) change(row, { minutes })
  else (event.target as HTMLInputElement).value = String(row.minutes)
}
</script>

<template>
  <table class="w-full text-[0.84375rem]" data-test="alert-matrix">
    <thead class="text-xs text-ink-2">
      <tr>
        <th scope="col" class="py-1 text-left font-semibold">When</th>
        <th v-for="[way, title] in ways()" :key="way" scope="col" class="w-20 px-1 font-semibold">{{ title }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.occasion" class="border-b border-rule-soft" :data-occasion="row.occasion">
        <th scope="row" class="py-1.5 text-left font-normal">
          {{ row.words
          }}<template v-if="row.occasion === 'due_soon'"
            >:
            <input
              :value="row.minutes"
              type="number"
              min="1"
              max="1440"
              class="w-16 rounded border border-rule bg-raised px-1"
              aria-label="Minutes before"
              :disabled="disabled"
              @change="setMinutes(row, $event)" />
            minutes before</template
          >
        </th>
        <td v-for="[way, , said] in ways()" :key="way" class="text-center">
          <input
            type="checkbox"
            class="align-middle accent-pine"
            :checked="row[way] && (way !== 'device' || row.here)"
            :disabled="disabled || (way === 'device' && !row.here)"
            :aria-label="`${row.words}: ${said}`"
            @change="change(row, { [way]: ($event.target as HTMLInputElement).checked })" />
        </td>
      </tr>
    </tbody>
  </table>
</template>
