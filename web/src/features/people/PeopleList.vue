<script setup lang="ts">
/** Who has spoken to us: search, filters that act at once, order, export. */
import { ref, watch } from 'vue'
import type { PersonRow } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'
import { PEOPLE_ORDERS, type People, type PeopleFilters, type PeopleOrder } from './usePeople'

const props = defineProps<{
  people: People
  filters: PeopleFilters
  order: PeopleOrder
  openId: number | null
  zone: string
  mayExport: boolean
  exportUrl: string
}>()
const emit = defineEmits<{ set: [filters: PeopleFilters]; order: [order: PeopleOrder]; open: [id: number] }>()
const { byNetwork, byTag, directory, networks } = useDirectory()
const { rows, total, hasMore, ask } = props.people
const words = ref(props.filters.words ?? '')
watch(
  () => props.filters.words,
  (now) => (words.value = now ?? ''),
)
let timer: ReturnType<typeof setTimeout> | undefined
function search(): void {
  clearTimeout(timer)
  timer = setTimeout(() => emit('set', without('words', words.value.trim() || undefined)), 200)
}
/** The filters with one set to something else, or taken out. */
function without<K extends keyof PeopleFilters>(name: K, value?: PeopleFilters[K]): PeopleFilters {
  const rest = { ...props.filters }
  if (value === undefined || (Array.isArray(value) && !value.length)) delete rest[name]
  else rest[name] = value
  return rest
}
const flip = <T,>(list: T[] | undefined, one: T): T[] =>
  list?.includes(one) ? list.filter((x) => x !== one) : [...(list ?? []), one]
const chip = (on: boolean): string =>
  on ? 'border-pine bg-pine-wash font-semibold text-pine' : 'border-rule bg-raised hover:bg-fold'
const handleOf = (p: PersonRow): string =>
  [...new Set(p.identities.map((i) => byNetwork.value.get(i.network)?.letters ?? i.network))].join(' ')
const reachOf = (p: PersonRow): number | null =>
  p.identities.reduce<number | null>((most, i) => (i.reach === null ? most : Math.max(most ?? 0, i.reach)), null)
function onScroll(event: Event): void {
  const el = event.target as HTMLElement
  if (el.scrollHeight - el.scrollTop - el.clientHeight < 400) void props.people.more()
}
</script>

<template>
  <div class="flex min-h-0 flex-col border-r border-rule">
    <div class="shrink-0 border-b border-rule-soft bg-paper px-3 py-2 text-[0.78125rem]">
      <div class="mb-2 flex items-center gap-2">
        <input
          v-model="words"
          type="search"
          class="min-w-0 flex-1 rounded border border-rule bg-raised px-2 py-1 text-[0.8125rem]"
          placeholder="Name, handle or a fact"
          aria-label="Search people"
          data-test="people-words"
          @input="search" />
        <span class="whitespace-nowrap text-ink-2" data-test="people-total"
          >{{ total?.toLocaleString('en') ?? '' }} {{ total === 1 ? 'person' : 'people' }}</span
        >
      </div>
      <div class="flex flex-wrap items-center gap-1.5">
        <button
          type="button"
          class="rounded-full border px-2 py-0.5"
          :class="chip(filters.follow_up === true)"
          :aria-pressed="filters.follow_up === true"
          @click="emit('set', without('follow_up', filters.follow_up ? undefined : true))">
          With a follow-up
        </button>
        <button
          type="button"
          class="rounded-full border px-2 py-0.5"
          :class="chip(filters.blocked === true)"
          :aria-pressed="filters.blocked === true"
          @click="emit('set', without('blocked', filters.blocked ? undefined : true))">
          Blocked
        </button>
        <button
          type="button"
          class="rounded-full border px-2 py-0.5"
          :class="chip(filters.standing !== undefined)"
          :aria-pressed="filters.standing !== undefined"
          @click="emit('set', without('standing', filters.standing ? undefined : 80))">
          Standing 80 or more
        </button>
        <button
          type="button"
          class="rounded-full border px-2 py-0.5"
          :class="chip(filters.reach !== undefined)"
          :aria-pressed="filters.reach !== undefined"
          @click="emit('set', without('reach', filters.reach ? undefined : 50))">
          Reach 50 or more
        </button>
        <PickMenu
          label="Tag of the person"
          :choices="
            (directory?.tags ?? []).map((t) => ({
              value: t.id,
              text: t.name,
              hint: filters.tag?.includes(t.id) ? 'set' : '',
            }))
          "
          @pick="(id) => emit('set', without('tag', flip(filters.tag, id)))"
          >Tag <span aria-hidden="true">▾</span></PickMenu
        >
        <PickMenu
          label="Network"
          :choices="
            (networks ?? []).map((n) => ({
              value: n.network,
              text: n.name,
              hint: filters.network?.includes(n.network) ? 'set' : '',
            }))
          "
          @pick="(n) => emit('set', without('network', flip(filters.network, n)))"
          >Network <span aria-hidden="true">▾</span></PickMenu
        >
        <button
          v-for="t in filters.tag"
          :key="t"
          type="button"
          class="rounded-full border px-2 py-0.5"
          :class="chip(true)"
          @click="emit('set', without('tag', flip(filters.tag, t)))">
          {{ byTag.get(t) }} ×
        </button>
        <button
          v-for="n in filters.network"
          :key="n"
          type="button"
          class="rounded-full border px-2 py-0.5"
          :class="chip(true)"
          @click="emit('set', without('network', flip(filters.network, n)))">
          {{ byNetwork.get(n)?.name }} ×
        </button>
        <button
          v-if="Object.keys(filters).length"
          type="button"
          class="font-semibold underline"
          @click="emit('set', {})">
          clear
        </button>
        <span class="ml-auto flex items-center">
          <a v-if="mayExport" class="px-2 font-semibold underline" :href="exportUrl" download data-test="export"
            >Export</a
          >
          <PickMenu
            label="Order"
            plain
            align="right"
            :choices="PEOPLE_ORDERS.map(([value, text]) => ({ value, text }))"
            @pick="(o) => emit('order', o)"
            >{{ PEOPLE_ORDERS.find(([k]) => k === order)?.[1] }}</PickMenu
          >
        </span>
      </div>
    </div>
    <LoadState :of="ask" />
    <ul
      class="min-h-0 flex-1 scroll-quiet overflow-y-auto"
      tabindex="0"
      aria-label="People"
      data-test="people"
      @scroll.passive="onScroll">
      <li v-for="p in rows" :key="p.id">
        <button
          type="button"
          class="grid w-full grid-cols-[34px_minmax(0,1fr)_auto] items-center gap-x-3 border-b border-rule-soft px-3 py-2 text-left"
          :class="p.id === openId ? 'bg-sheet outline-2 -outline-offset-2 outline-pine' : 'hover:bg-sheet'"
          :aria-current="p.id === openId"
          :data-person="p.id"
          @click="emit('open', p.id)">
          <b
            class="text-right font-name text-lg text-sky"
            :title="p.standing === null ? 'No standing yet' : `Standing ${p.standing}`"
            >{{ p.standing ?? '–' }}</b
          >
          <span class="min-w-0">
            <span class="flex items-baseline gap-2"
              ><b class="truncate">{{ p.name }}</b
              ><span v-if="p.blocked" class="text-xs font-semibold text-brick">blocked</span
              ><span v-if="p.follow_up_at" class="text-xs font-semibold whitespace-nowrap text-honey"
                >follow up {{ sayTime(p.follow_up_at, zone) }}</span
              ></span
            >
            <span class="flex gap-1.5 truncate text-xs text-ink-2"
              ><span class="font-semibold">{{ handleOf(p) }}</span
              ><span>{{ p.conversations }} {{ p.conversations === 1 ? 'conversation' : 'conversations' }}</span
              ><span v-for="t in p.tags" :key="t" class="rounded-sm bg-fold px-1.5">{{ byTag.get(t) }}</span></span
            >
          </span>
          <span class="text-right text-xs whitespace-nowrap text-ink-2"
            >{{ sayTime(p.last_at ?? p.first_at, zone) }}<br /><span v-if="reachOf(p) !== null"
              >reach {{ reachOf(p) }}</span
            ></span
          >
        </button>
      </li>
      <li v-if="!rows.length && total === 0" class="px-6 py-10 text-center text-ink-2">Nobody fits these filters.</li>
      <li v-if="rows.length && hasMore" class="p-3 text-center text-[0.8125rem] text-ink-2">More as you scroll</li>
    </ul>
  </div>
</template>
