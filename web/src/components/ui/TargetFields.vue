<script setup lang="ts">
/** Targets in working minutes, by whom an answer is promised to and by priority. */
type Targets = Record<string, Record<'urgent' | 'high' | 'normal' | 'low', number>>
const AUDIENCES = [
  ['public', 'In public'],
  ['private', 'In private'],
  ['review', 'Reviews'],
] as const
const PRIORITIES = [
  ['urgent', 'Urgent'],
  ['high', 'High'],
  ['normal', 'Normal'],
  ['low', 'Low'],
] as const
const targets = defineModel<Targets>({ required: true })
function put(audience: string, priority: string, event: Event): void {
  const minutes = (event.target as HTMLInputElement).valueAsNumber
  targets.value = {
    ...targets.value,
    [audience]: { ...targets.value[audience], [priority]: minutes } as Targets[string],
  }
}
</script>

<template>
  <table class="text-[0.8125rem]">
    <thead class="text-ink-2">
      <tr>
        <th scope="col"><span class="sr-only">To whom</span></th>
        <th v-for="[p, word] in PRIORITIES" :key="p" scope="col" class="px-1 text-left font-semibold">
          {{ word }}
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="[a, says] in AUDIENCES" :key="a">
        <th scope="row" class="pr-3 text-left font-normal">{{ says }}</th>
        <td v-for="[p, word] in PRIORITIES" :key="p" class="p-0.5">
          <input
            :value="targets[a]?.[p]"
            type="number"
            min="1"
            class="w-20 rounded border border-rule bg-raised px-2 py-0.5"
            :aria-label="`${says}, ${word}`"
            :data-test="`target-${a}-${p}`"
            @input="put(a, p, $event)" />
        </td>
      </tr>
    </tbody>
  </table>
</template>
