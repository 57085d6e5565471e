<script setup lang="ts">
/** What is to be otherwise in the days that are played again. What is left alone is as it is. */
import { computed, ref, watch } from 'vue'
import { api, take } from '@/api/client'
import type { Hours, NewWhatIf, TeamState } from '@/api/types'
import TargetFields from '@/components/ui/TargetFields.vue'
import WeekFields from '@/components/ui/WeekFields.vue'
import { useAsk } from '@/composables/useAsk'
import { useDirectory } from '@/composables/useDirectory'
import { useRules } from '@/features/rules/useRules'

const props = defineProps<{ workspaceId: number; busy: boolean }>()
const emit = defineEmits<{ start: [asked: NewWhatIf] }>()
const path = computed(() => ({ params: { path: { workspace_id: props.workspaceId } } }))
const { directory } = useDirectory()
const { data: hours } = useAsk<Hours>('Hours and targets', {
  key: () => ['hours', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/hours', path.value)),
})
const { data: rules } = useRules(computed(() => props.workspaceId))
const { data: team } = useAsk<TeamState>('The team', {
  key: () => ['team', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/team', path.value)),
})

const days = ref(28)
const clock = ref<'working' | 'clock'>('working')
const more = ref(0)
const isOwnShift = ref(false)
const shift = ref<string[]>(['9-17', '9-17', '9-17', '9-17', '9-17', 'closed', 'closed'])
const inTeam = ref<number | null>(null)
const without = ref<number[]>([])
const isOtherHours = ref(false)
const week = ref<string[]>([])
const isOtherTargets = ref(false)
const targets = ref<Hours['targets']>({})
const switched = ref<number[]>([])
const handling = ref<number | null>(null)
const given = ref(true)
watch(
  hours,
  (h) => {
    if (!h || week.value.length) return
    week.value = [...h.week]
    targets.value = h.targets
  },
  { immediate: true },
)
const answering = computed(() => (team.value?.members ?? []).filter((m) => m.may_reply))
function start(): void {
  const on = new Map((rules.value?.rules ?? []).map((r) => [r.id, r.switched_on]))
  emit('start', {
    days: days.value,
    clock: clock.value,
    more: more.value ? [{ count: more.value, shift: isOwnShift.value ? shift.value : null, team: inTeam.value }] : [],
    without: without.value,
    hours: isOtherHours.value ? week.value : null,
    targets: isOtherTargets.value ? targets.value : null,
    rules: Object.fromEntries(switched.value.map((id) => [String(id), !on.get(id)])),
    handling: handling.value,
    given: given.value,
  })
}
const field = 'rounded border border-rule bg-raised px-2 py-[3px]'
const label = 'mb-0.5 block text-xs font-semibold text-ink-2'
</script>

<template>
  <form class="space-y-4 text-[0.84375rem]" data-test="what-if-form" @submit.prevent="start">
    <div class="flex flex-wrap items-end gap-x-4 gap-y-2">
      <label
        ><span :class="label">Play again</span
        ><select v-model.number="days" :class="field">
          <option v-for="n in [1, 7, 14, 28]" :key="n" :value="n">
            {{ n === 1 ? 'yesterday' : `the last ${n} days` }}
          </option>
        </select></label
      >
      <label
        ><span :class="label">Waiting counts in</span
        ><select v-model="clock" :class="field">
          <option value="working">working time</option>
          <option value="clock">time on the clock</option>
        </select></label
      >
      <label
        ><span :class="label">An answer takes</span
        ><select v-model="handling" :class="field">
          <option :value="null">as timed</option>
          <option v-for="n in [2, 4, 6, 10, 15, 20]" :key="n" :value="n">{{ n }} min</option>
        </select></label
      >
    </div>
    <fieldset>
      <legend :class="label">People</legend>
      <div class="flex flex-wrap items-center gap-2">
        <label class="flex items-center gap-1.5"
          ><input
            v-model.number="more"
            type="number"
            min="0"
            max="20"
            class="w-16"
            :class="field"
            data-test="more-people" />
          more</label
        >
        <template v-if="more">
          <label class="flex items-center gap-1.5"
            >in
            <select v-model="inTeam" :class="field">
              <option :value="null">all teams</option>
              <option v-for="t in directory?.teams ?? []" :key="t.id" :value="t.id">{{ t.name }}</option>
            </select></label
          >
          <label class="flex items-center gap-1.5"
            ><input v-model="isOwnShift" type="checkbox" class="accent-pine" /> with hours of their own</label
          >
        </template>
      </div>
      <div v-if="more && isOwnShift" class="mt-2 max-w-md"><WeekFields v-model="shift" test="shift" /></div>
      <div v-if="answering.length" class="mt-2 flex flex-wrap gap-x-4 gap-y-1">
        <label v-for="m in answering" :key="m.member_id" class="flex items-center gap-1.5"
          ><input
            v-model="without"
            type="checkbox"
            class="accent-pine"
            :value="m.member_id"
            :data-test="`without-${m.member_id}`" />
          without {{ m.name }}</label
        >
      </div>
      <label class="mt-2 flex items-center gap-1.5"
        ><input v-model="given" type="checkbox" class="accent-pine" /> Teams give out, as they do now; else whoever is
        free takes what is due first</label
      >
    </fieldset>
    <div>
      <label class="flex items-center gap-1.5 font-semibold"
        ><input v-model="isOtherHours" type="checkbox" class="accent-pine" data-test="other-hours" /> Other hours</label
      >
      <div v-if="isOtherHours && week.length" class="mt-1 max-w-md"><WeekFields v-model="week" test="what-if" /></div>
    </div>
    <div>
      <label class="flex items-center gap-1.5 font-semibold"
        ><input v-model="isOtherTargets" type="checkbox" class="accent-pine" data-test="other-targets" /> Other
        targets</label
      >
      <div v-if="isOtherTargets" class="mt-1 overflow-x-auto"><TargetFields v-model="targets" /></div>
    </div>
    <fieldset v-if="rules?.rules.length">
      <legend class="font-semibold">Rules</legend>
      <div class="mt-1 grid gap-x-4 gap-y-1 sm:grid-cols-2">
        <label v-for="r in rules.rules" :key="r.id" class="flex min-w-0 items-baseline gap-1.5"
          ><input
            v-model="switched"
            type="checkbox"
            class="accent-pine"
            :value="r.id"
            :data-test="`switch-${r.id}`" /><span class="min-w-0"
            >{{ r.body.name }} <span class="text-ink-2">switched {{ r.switched_on ? 'off' : 'on' }}</span></span
          ></label
        >
      </div>
    </fieldset>
    <button
      type="submit"
      :disabled="busy"
      class="rounded bg-pine px-3 py-1 font-semibold text-on-pine disabled:opacity-50"
      data-test="play">
      Play it 200 times
    </button>
  </form>
</template>
