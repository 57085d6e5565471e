<script setup lang="ts">
/** Hours of the seven days of a week, each as people write them. */
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const week = defineModel<string[]>({ required: true })
defineProps<{ test?: string }>()
const put = (n: number, event: Event): void => {
  const said = (event.target as HTMLInputElement).value
  week.value = week.value.map((hours, day) => (day === n ? said : hours))
}
</script>

<template>
  <label
    v-for="(name, n) in DAYS"
    :key="name"
    class="mb-1 grid grid-cols-[96px_minmax(0,1fr)] items-center text-[0.8125rem]"
    >{{ name
    }}<input
      :value="week[n]"
      class="max-w-72 rounded border border-rule bg-raised px-2 py-0.5"
      :data-test="test && `${test}-${n}`"
      @input="put(n, $event)"
  /></label>
</template>
