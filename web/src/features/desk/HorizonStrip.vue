<script setup lang="ts">
/** What is due over the next 8 working hours, closed time folded; dragging over a span filters the queue by it. */
import { computed, onScopeDispose, ref } from 'vue'
import { api, take } from '@/api/client'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import type { Horizon, Slot } from '@/api/types'
import { useKeys } from '@/composables/useKeys'
import { useSoon } from '@/composables/useSoon'
import { takeFirst } from '@/api/first'
import WhatIs from '@/features/help/WhatIs.vue'
import TourMark from '@/features/help/TourMark.vue'
import { sayTime, sayWeekday } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{
  workspaceId: number
  zone: string
  from: string | undefined
  until: string | undefined
  isLate: boolean
}>()
const emit = defineEmits<{ select: [from: string, until: string]; late: []; clear: [] }>()
const session = useSession()
const isFolded = computed(() => session.session?.screen.strip === 'folded')
const { problem, attempt } = useAttempt()
const fold = (): Promise<boolean> => attempt(() => session.setScreen({ strip: isFolded.value ? 'open' : 'folded' }))
const EVERY = 30_000
const SOON = 1_500
const { data: horizon, refetch } = useAsk<Horizon>('What is due', {
  key: () => ['horizon', props.workspaceId],
  query: () =>
    takeFirst(props.workspaceId, 'horizon') ??
    take(api.GET('/api/workspaces/{workspace_id}/horizon', { params: { path: { workspace_id: props.workspaceId } } })),
  staleTime: 0,
})
const timer = setInterval(() => void refetch(), EVERY)
onScopeDispose(() => clearInterval(timer))
defineExpose({ soon: useSoon(refetch, SOON) })

const total = (dues: Record<string, number>): number => Object.values(dues).reduce((sum, n) => sum + n, 0)
const late = computed(() => total(horizon.value?.late ?? {}))
const MOST = 5
/** Marks of a slot from below: urgent ones first, at most five and then their number. */
const marks = (s: Slot): number[] =>
  [3, 2, 1, 0].flatMap((p) => Array.from({ length: s.dues[p] ?? 0 }, () => p)).slice(0, MOST)
const clock = (at: string): string => sayTime(at, props.zone).slice(-5)
const isHour = (s: Slot): boolean => clock(s.starts).endsWith(':00')
const dayOf = (at: string): string => sayWeekday(at, props.zone)
/** The day's name after a fold. */
const opens = (n: number): string => {
  const slots = horizon.value?.slots ?? []
  const before = slots[n - 1]
  return before && !before.is_open ? dayOf(slots[n]?.starts ?? '') : ''
}
const columns = computed(() =>
  (horizon.value?.slots ?? []).map((s) => (s.is_open ? 'minmax(0,1fr)' : '58px')).join(' '),
)

/** Far more than usual has come in lately. */
const storm = computed(() => horizon.value?.unusual[0] ?? null)
const sayStorm = (u: { begins_at: string; came: number; expected: number }): string => {
  const usual = u.expected < 0.05 ? 'none' : u.expected.toFixed(u.expected < 10 ? 1 : 0)
  return `${u.came} in since ${clock(u.begins_at)}, usually ${usual}`
}
const pace = computed(() => {
  const h = horizon.value
  if (!h) return ''
  if (!h.open_work) return 'Nothing of ours is open'
  if (!h.over) return ''
  if (!h.clear_at) return `At ${h.over === 'today' ? "today's" : 'this'} pace not clear for weeks`
  const when = dayOf(h.clear_at) === dayOf(h.now) ? clock(h.clear_at) : `${dayOf(h.clear_at)} ${clock(h.clear_at)}`
  return `${h.over === 'two_hours' ? 'At this pace' : "At today's pace"}, clear by ${when}`
})
const paceWhy = computed(() =>
  horizon.value?.over
    ? `${horizon.value.open_work} are our move; ${horizon.value.finished} answers and settlings in ${Math.round(horizon.value.minutes)} working minutes`
    : 'Too little was answered lately to say',
)

const slotsBox = ref<HTMLElement | null>(null)
const begun = ref<number | null>(null)
const reached = ref<number | null>(null)
const span = computed<[number, number] | null>(() =>
  begun.value === null || reached.value === null
    ? null
    : [Math.min(begun.value, reached.value), Math.max(begun.value, reached.value)],
)
function finish(): void {
  const slots = horizon.value?.slots ?? []
  const chosen = span.value
  begun.value = reached.value = null
  const [first, last] = [chosen && slots[chosen[0]], chosen && slots[chosen[1]]]
  if (first && last) emit('select', first.starts, last.ends)
}
const isOn = (s: Slot, n: number): boolean => {
  if (span.value) return n >= span.value[0] && n <= span.value[1]
  return (
    props.from !== undefined &&
    props.until !== undefined &&
    Date.parse(s.starts) >= Date.parse(props.from) &&
    Date.parse(s.ends) <= Date.parse(props.until)
  )
}
/** The open slot that has the focus, by its number in the horizon. */
const focused = (): number => Number((document.activeElement as HTMLElement | null)?.dataset.slot ?? -1)
function step(by: number): void {
  const buttons = [...(slotsBox.value?.querySelectorAll<HTMLElement>('[data-slot]') ?? [])]
  buttons[buttons.findIndex((b) => b === document.activeElement) + by]?.focus()
}
function selectFocused(): void {
  const slot = horizon.value?.slots[focused()]
  if (slot) emit('select', slot.starts, slot.ends)
}
useKeys({ ArrowRight: () => step(1), ArrowLeft: () => step(-1), Enter: selectFocused }, slotsBox)
</script>

<template>
  <section
    class="hidden shrink-0 border-b border-rule bg-sheet"
    :class="isFolded ? 'md:block' : 'h-[4.375rem] grid-cols-[14.75rem_minmax(0,1fr)] md:grid'"
    aria-label="Answers due"
    data-test="horizon">
    <div :class="isFolded ? 'flex items-baseline gap-x-4 px-4 py-1' : 'border-r border-rule-soft px-4 py-[5px]'">
      <h2 class="flex items-baseline justify-between gap-2 text-xs font-semibold text-ink-2">
        <span class="flex items-center gap-1"
          >Answers due <WhatIs id="horizon" word="the horizon" class="-my-1.5" /><TourMark :n="2"
        /></span>
        <button
          type="button"
          class="font-normal underline"
          :class="isFolded ? 'order-last' : ''"
          :aria-expanded="!isFolded"
          data-test="fold-strip"
          @click="fold">
          {{ isFolded ? 'Show the hours' : 'Fold' }}<span class="sr-only"> of what is due</span>
        </button>
      </h2>
      <p v-if="horizon" class="text-[0.9375rem] font-semibold whitespace-nowrap">
        <button
          v-if="isFolded && late"
          type="button"
          class="text-brick underline"
          :aria-pressed="isLate"
          :aria-label="`${late} late: show them`"
          @click="emit('late')">
          {{ late }} late</button
        ><span v-else :class="late ? 'text-brick' : ''">{{ late ? `${late} late` : 'None late' }}</span> ·
        {{ horizon.within_hour }} within the hour
      </p>
      <p v-if="problem" role="alert" class="text-xs text-brick">{{ problem }}</p>
      <p
        v-else-if="storm && !from"
        class="truncate text-xs font-semibold text-honey"
        :title="sayStorm(storm)"
        data-test="storm">
        {{ sayStorm(storm) }}
      </p>
      <p v-else class="flex gap-2 text-xs text-ink-2" :title="paceWhy" data-test="pace">
        <span class="truncate">{{ pace }}</span><button
          v-if="from"
          type="button"
          class="shrink-0 font-semibold text-pine underline"
          data-test="clear-span"
          @click="emit('clear')">
          All dues
        </button>
      </p>
    </div>
    <div v-if="horizon && !isFolded" class="flex min-w-0 select-none">
      <button
        type="button"
        class="flex w-[86px] shrink-0 flex-col justify-end bg-brick-wash px-2.5 pb-1 text-left"
        :class="isLate ? 'shadow-[inset_0_-3px_0_var(--brick)]' : ''"
        :aria-pressed="isLate"
        :aria-label="`${late} late: show them`"
        data-test="horizon-late"
        @click="emit('late')">
        <span class="mb-1 flex max-h-9 flex-wrap-reverse gap-[3px]" aria-hidden="true"
          ><template v-for="p in [3, 2, 1, 0]" :key="p"
            ><i
              v-for="n in Math.min(horizon.late[p] ?? 0, 12)"
              :key="n"
              class="block size-[7px]"
              :class="p === 3 ? 'bg-brick' : 'bg-ink'" /></template
        ></span>
        <span class="text-[0.71875rem] font-semibold text-brick">late</span>
      </button>
      <div
        ref="slotsBox"
        class="grid min-w-0 flex-1 border-l-2 border-pine"
        :style="{ gridTemplateColumns: columns }"
        @pointerleave="begun !== null && finish()"
        @pointerup="finish">
        <template v-for="(s, n) in horizon.slots" :key="s.starts">
          <div v-if="s.is_open" class="relative flex min-w-0" :class="isHour(s) ? 'border-l border-rule-soft' : ''">
            <button
              type="button"
              class="flex min-w-0 flex-1 flex-col justify-end px-px pb-[18px]"
              :class="isOn(s, n) ? 'bg-pine-wash' : 'hover:bg-fold'"
              :title="`${clock(s.starts)} to ${clock(s.ends)}: ${total(s.dues)} due`"
              :aria-label="`${clock(s.starts)} to ${clock(s.ends)}, ${total(s.dues)} due`"
              :aria-pressed="isOn(s, n)"
              :tabindex="n === 0 ? 0 : -1"
              :data-slot="n"
              @pointerdown.prevent="begun = reached = n"
              @pointerenter="begun !== null && (reached = n)">
              <span
                v-if="total(s.dues) > MOST"
                class="text-center text-[0.625rem] leading-none font-semibold"
                aria-hidden="true"
                >{{ total(s.dues) }}</span
              >
              <i
                v-for="(p, m) in [...marks(s)].reverse()"
                :key="m"
                class="mt-[2px] block h-[6px]"
                :class="p === 3 ? 'bg-brick' : 'bg-ink-2'"
                aria-hidden="true" />
            </button>
            <span
              v-if="isHour(s)"
              class="pointer-events-none absolute bottom-0.5 left-0.5 text-[0.6875rem] whitespace-nowrap text-ink-2"
              aria-hidden="true"
              >{{ clock(s.starts) }}</span
            >
            <span
              v-if="n === 0"
              class="pointer-events-none absolute top-0.5 left-0.5 z-10 bg-sheet px-0.5 text-[0.6875rem] font-semibold whitespace-nowrap text-pine"
              aria-hidden="true"
              >now {{ clock(horizon.now) }}</span
            >
            <span
              v-else-if="opens(n)"
              class="pointer-events-none absolute top-0.5 left-0.5 text-[0.6875rem] whitespace-nowrap text-ink-2"
              aria-hidden="true"
              >{{ opens(n) }}</span
            >
          </div>
          <div
            v-else
            class="relative border-x border-rule bg-[repeating-linear-gradient(135deg,var(--rule-soft)_0_4px,transparent_4px_9px)]"
            :title="`Closed from ${sayTime(s.starts, zone)} to ${sayTime(s.ends, zone)}`">
            <span class="absolute bottom-0.5 left-1 bg-sheet px-0.5 text-[0.6875rem] text-ink-2">closed</span>
          </div>
        </template>
      </div>
    </div>
  </section>
</template>
