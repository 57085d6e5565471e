<script setup lang="ts">
/** When the workspace works and how soon it promises answers; what is due follows in the background. */
import { useAsk } from '@/composables/useAsk'
import { computed, ref, watch } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Hours } from '@/api/types'
import TargetFields from '@/components/ui/TargetFields.vue'
import WeekFields from '@/components/ui/WeekFields.vue'
import { ZONES } from '@/lib/zones'

const props = defineProps<{ workspaceId: number; mayManage: boolean }>()

const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, refetch } = useAsk<Hours>('Hours and targets', {
  key: () => ['hours', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/hours', { params: { path: path.value } })),
})
type Draft = Pick<Hours, 'time_zone' | 'week' | 'targets'> & { special: { day: string; hours: string }[] }
const draft = ref<Draft | null>(null)
const problem = ref<string | null>(null)
const isSaved = ref(false)
const newDay = ref('')
const newHours = ref('closed')
/** What is being changed stays when somebody else saves meanwhile. */
const isTouched = ref(false)
watch(
  data,
  (h) => {
    if (!h || isTouched.value) return
    draft.value = JSON.parse(
      JSON.stringify({
        time_zone: h.time_zone,
        week: h.week,
        targets: h.targets,
        special: Object.entries(h.special)
          .sort()
          .map(([day, hours]) => ({ day, hours })),
      }),
    ) as Draft
  },
  { immediate: true },
)
function touch(): void {
  isTouched.value = true
  isSaved.value = false
  question.value = null
}
function addSpecial(): void {
  if (!draft.value || !newDay.value) return
  draft.value.special = [
    ...draft.value.special.filter((s) => s.day !== newDay.value),
    { day: newDay.value, hours: newHours.value },
  ].sort((a, b) => a.day.localeCompare(b.day))
  newDay.value = ''
  touch()
}
/** What looks like a slip is asked about once, and kept when it is meant so. */
const question = ref<string | null>(null)
async function save(sure = false): Promise<void> {
  if (!draft.value) return
  try {
    problem.value = question.value = null
    const { special, ...rest } = draft.value
    await take(
      api.PUT('/api/workspaces/{workspace_id}/hours', {
        params: { path: path.value },
        body: { ...rest, special: Object.fromEntries(special.map((s) => [s.day, s.hours])), sure },
      }),
    )
    isTouched.value = false
    isSaved.value = true
    await refetch()
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    if (error.kind === 'ask-first') question.value = error.message
    else problem.value = error.message
  }
}
/** Dates of an iCalendar file come into the form, to be looked at and saved. */
const read = ref<string | null>(null)
const leftOut = ref<{ name: string; day: string | null; why: string }[]>([])
async function readFile(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file || !draft.value) return
  try {
    problem.value = null
    const found = await take(
      api.POST('/api/workspaces/{workspace_id}/hours/calendar', {
        params: { path: path.value },
        body: { text: await file.text() },
      }),
    )
    const { dates } = found
    const days = new Set(dates.map((d) => d.day))
    draft.value.special = [
      ...draft.value.special.filter((s) => !days.has(s.day)),
      ...dates.map(({ day, hours }) => ({ day, hours })),
    ].sort((a, b) => a.day.localeCompare(b.day))
    read.value = dates.length
      ? `${dates.length} dates from the file: ${[...new Set(dates.map((d) => d.name))].slice(0, 4).join(', ')}. Save to keep them.`
      : 'The file holds no closed or open dates for the next two years.'
    leftOut.value = found.left_out
    touch()
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    problem.value = error.message
  }
  input.value = ''
}
const sayDay = (day: string): string =>
  new Date(`${day}T12:00:00Z`).toLocaleDateString('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    timeZone: 'UTC',
  })
/** Special dates lie up to years ahead: they carry their year. */
const sayDate = (day: string): string => `${sayDay(day)} ${day.slice(0, 4)}`
defineExpose({ refetch })
</script>

<template>
  <section v-if="draft && data" class="mb-8" aria-labelledby="hours-title" data-test="hours">
    <h2 id="hours-title" class="font-name text-lg font-bold">Working hours and targets</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Answers are promised in working time; when something changes here, what is due follows. It is
      {{ data.is_open ? 'open' : 'closed' }} now.
    </p>
    <form
      class="grid gap-6 rounded-md border border-rule bg-sheet p-4 md:grid-cols-[minmax(0,1fr)_200px]"
      @submit.prevent="save()"
      @input="touch">
      <fieldset :disabled="!mayManage" class="grid min-w-0 gap-4">
        <label class="text-[0.8125rem]"
          ><span class="mb-0.5 block text-xs font-semibold text-ink-2">Time zone</span>
          <input v-model="draft.time_zone" list="zones" class="w-64 rounded border border-rule bg-raised px-2 py-1" />
          <datalist id="zones"><option v-for="z in ZONES" :key="z" :value="z" /></datalist>
        </label>
        <div>
          <h3 class="mb-1 text-xs font-semibold text-ink-2">The week, such as 9-12:30, 13:30-17, or closed</h3>
          <WeekFields v-model="draft.week" test="hours" />
        </div>
        <div>
          <h3 class="mb-1 text-xs font-semibold text-ink-2">Special dates</h3>
          <p
            v-for="(s, n) in draft.special"
            :key="s.day"
            class="mb-1 grid grid-cols-[120px_minmax(0,1fr)_auto] items-center gap-x-2 text-[0.8125rem]">
            <span>{{ sayDate(s.day) }}</span><input
              v-model="s.hours"
              class="max-w-72 rounded border border-rule bg-raised px-2 py-0.5"
              :aria-label="`Hours on ${sayDate(s.day)}`" />
            <button
              type="button"
              class="underline"
              :aria-label="`Forget ${sayDate(s.day)}`"
              @click="(draft.special.splice(n, 1), touch())">
              Forget
            </button>
          </p>
          <p class="flex flex-wrap gap-1.5 text-[0.8125rem]">
            <input
              v-model="newDay"
              type="date"
              class="rounded border border-rule bg-raised px-2 py-0.5"
              aria-label="Special date" />
            <input
              v-model="newHours"
              class="w-32 rounded border border-rule bg-raised px-2 py-0.5"
              aria-label="Hours on it" />
            <button
              type="button"
              class="rounded border border-rule bg-raised px-2.5 font-semibold hover:bg-fold"
              @click="addSpecial">
              Add
            </button>
            <label
              v-if="mayManage"
              class="cursor-pointer rounded border border-rule bg-raised px-2.5 font-semibold focus-within:outline-2 focus-within:outline-pine hover:bg-fold"
              >Read holidays from a calendar file<input
                type="file"
                accept="text/calendar,.ics"
                class="sr-only"
                data-test="read-calendar"
                @change="readFile"
            /></label>
            <a :href="`/api/workspaces/${workspaceId}/hours/calendar.ics`" class="self-center underline" download
              >All as a calendar file</a
            >
          </p>
        </div>
        <div>
          <h3 class="mb-1 text-xs font-semibold text-ink-2">Targets, in working minutes</h3>
          <TargetFields v-model="draft.targets" />
        </div>
        <div v-if="read" role="status" class="text-[0.8125rem] text-honey-ink" data-test="calendar-read">
          <p>{{ read }}</p>
          <details v-if="leftOut.length" class="mt-1 text-ink-2" data-test="calendar-left-out">
            <summary class="cursor-pointer">
              {{ leftOut.length }} {{ leftOut.length === 1 ? 'event' : 'events' }} of the file
              {{ leftOut.length === 1 ? 'changes' : 'change' }} nothing
            </summary>
            <ul class="ml-4 list-disc">
              <li v-for="(one, n) in leftOut.slice(0, 200)" :key="n">
                {{ one.name }}<template v-if="one.day">, {{ sayDate(one.day) }}</template
                >: {{ one.why }}
              </li>
              <li v-if="leftOut.length > 200">and {{ leftOut.length - 200 }} more</li>
            </ul>
          </details>
        </div>
        <div
          v-if="question"
          role="alert"
          class="border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-1.5 text-[0.8125rem] text-honey-ink"
          data-test="hours-question">
          <p>{{ question }} Is that meant?</p>
          <button type="button" class="mt-1 font-bold underline" data-test="hours-sure" @click="save(true)">
            Yes, save it so
          </button>
        </div>
        <p v-if="mayManage" class="flex items-center gap-3">
          <button type="submit" class="rounded bg-pine px-3 py-1 font-bold text-on-pine" data-test="save-hours">
            Save
          </button>
          <span v-if="problem" role="alert" class="text-[0.8125rem] text-brick">{{ problem }}</span>
          <span v-else-if="data.progress" role="status" class="text-[0.8125rem] text-honey" data-test="recounting"
            >Due times are being recalculated: {{ data.progress.done }} of {{ data.progress.total }}</span
          >
          <span v-else-if="isSaved" role="status" class="text-[0.8125rem] text-pine"
            >Saved. What is due has followed.</span
          >
        </p>
        <p v-else class="text-[0.8125rem] text-ink-2">Owners and Leads can change this.</p>
      </fieldset>
      <div>
        <h3 class="mb-1 text-xs font-semibold text-ink-2">The coming two weeks</h3>
        <p
          v-for="d in data.ahead"
          :key="d.day"
          class="flex justify-between gap-2 border-b border-dotted border-rule py-px text-[0.78125rem]"
          :class="d.hours === 'closed' ? 'text-ink-2' : ''">
          <span>{{ sayDay(d.day) }}</span><span :class="d.special ? 'font-semibold text-honey' : ''">{{
            d.hours
          }}</span>
        </p>
        <p v-for="s in data.skipped" :key="s.day + s.words" class="mt-1 text-[0.78125rem] text-honey-ink">
          {{ sayDate(s.day) }}: {{ s.words }}
        </p>
      </div>
    </form>
  </section>
</template>
