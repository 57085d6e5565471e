<script setup lang="ts">
/** What the queue is filtered by: always visible, each value with its count, one clear; the order; saved views. */
import { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
import { useMemory } from '@/composables/useFocusBack'
import { computed, ref, toRef } from 'vue'
import type { Counts, Standing, View } from '@/api/types'
import TourMark from '@/features/help/TourMark.vue'
import KeyCap from '@/components/ui/KeyCap.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import { useDirectory } from '@/composables/useDirectory'
import { BANDS } from '@/lib/bands'
import FilterPanel, { type FilterChoice } from './FilterPanel.vue'
import { useReadyViews } from './useReadyViews'
import {
  ORDERS,
  SHOWN_AS,
  sayLanguage,
  SENTIMENTS,
  TITLES,
  toApi,
  toggle,
  type Filters,
  type Order,
} from '@/lib/filters'
import { sayListed } from '@/lib/reports'
import { KINDS, PRIORITIES, sayDay, sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{
  me: number
  filters: Filters
  order: Order
  counts: Counts | null
  move: Standing
  views: View[]
  /** What the address asks for that nobody can read. */
  unread: string[]
  personName: string | undefined
}>()
const emit = defineEmits<{
  set: [filters: Filters]
  order: [order: Order]
  view: [view: { query: View['query'] }]
  save: []
  forget: [view: View]
  all: [isAll: boolean]
}>()
const session = useSession()
const { members, accounts, networks, directory } = useDirectory()
const button = ref<{ $el: HTMLElement } | null>(null)
const menu = ref<{ open: () => void } | null>(null)

const countOf = computed(() => new Map((props.counts?.values ?? []).map((v) => [`${v.dimension} ${v.value}`, v.n])))
const of = (dimension: string, value: string | number): number => countOf.value.get(`${dimension} ${value}`) ?? 0
const sum = (ids: number[]): number => ids.reduce((n, id) => n + of('account', id), 0)

const groups = computed<{ name: string; choices: FilterChoice[] }[]>(() => {
  const d = directory.value
  const band = props.counts?.moves.find((m) => m.move === props.move)
  const list: { name: string; choices: FilterChoice[] }[] = [
    {
      name: 'owner',
      choices: [
        { value: 'me', text: 'Me', n: of('owner', props.me) },
        { value: 'nobody', text: 'Nobody', n: of('owner', '') },
        ...(members.value ?? [])
          .filter((m) => m.id !== props.me && m.may_sort)
          .map((m) => ({ value: String(m.id), text: m.name, n: of('owner', m.id) })),
      ],
    },
    {
      name: 'team',
      choices: (d?.teams ?? []).map((t) => ({ value: String(t.id), text: t.name, n: of('team', t.id) })),
    },
    { name: 'band', choices: BANDS.map(([key, text]) => ({ value: key, text, n: band?.[key] })) },
    {
      name: 'priority',
      choices: PRIORITIES.map((text, n) => ({ value: String(n), text, n: of('priority', n) })).reverse(),
    },
    { name: 'kind', choices: Object.entries(KINDS).map(([value, text]) => ({ value, text, n: of('kind', value) })) },
    {
      name: 'public',
      choices: [
        { value: 'true', text: 'Public', n: of('public', 'true') },
        { value: 'false', text: 'Private', n: of('public', 'false') },
      ],
    },
    {
      name: 'network',
      choices: (networks.value ?? []).map((w) => ({
        value: w.network,
        text: w.name,
        n: sum((accounts.value ?? []).filter((a) => a.network === w.network).map((a) => a.id)),
      })),
    },
    {
      name: 'account',
      choices: (accounts.value ?? []).map((a) => ({
        value: String(a.id),
        text: `${a.name}, ${a.network_name}`,
        n: of('account', a.id),
      })),
    },
    {
      name: 'group',
      choices: (d?.groups ?? []).map((g) => ({ value: String(g.id), text: g.name, n: sum(g.accounts) })),
    },
    {
      name: 'tag',
      choices: (d?.tags ?? [])
        .filter((t) => t.merged_into === null)
        .map((t) => ({ value: String(t.id), text: t.name, n: of('tag', t.id) })),
    },
    {
      name: 'person_tag',
      choices: (d?.tags ?? [])
        .map((t) => ({ value: String(t.id), text: t.name, n: of('person_tag', t.id) }))
        .filter((c) => c.n),
    },
    {
      name: 'reads_as',
      choices: Object.entries(SHOWN_AS).map(([value, text]) => ({ value, text, n: of('reads_as', value) })),
    },
    {
      name: 'sentiment',
      choices: Object.entries(SENTIMENTS).map(([value, text]) => ({ value, text, n: of('sentiment', value) })),
    },
    {
      name: 'language',
      choices: (props.counts?.values ?? [])
        .filter((v) => v.dimension === 'language')
        .sort((a, b) => b.n - a.n)
        .map((v) => ({ value: v.value, text: sayLanguage(v.value), n: v.n })),
    },
    { name: 'unread', choices: [{ value: 'true', text: 'I have not read', n: of('unread', 'true') }] },
    { name: 'watched', choices: [{ value: 'true', text: 'I watch', n: of('watched', 'true') }] },
    { name: 'attachment', choices: [{ value: 'true', text: 'With an attachment', n: of('attachment', 'true') }] },
    {
      name: 'bare_mention',
      choices: [
        { value: 'true', text: 'Only names somebody', n: of('bare_mention', 'true') },
        { value: 'false', text: 'Says something' },
      ],
    },
  ]
  return list.filter((g) => g.choices.length)
})
const chips = computed(() =>
  Object.entries(props.filters).flatMap(([name, values]) =>
    (values ?? []).map((value) => {
      const known = groups.value.find((g) => g.name === name)?.choices.find((c) => c.value === value)?.text
      const text =
        name === 'report'
          ? `In a report: ${sayListed(value)}`
          : name === 'rule'
            ? 'Where the rule was met lately'
            : name === 'person'
              ? (props.personName ?? 'one person')
              : (known ??
                (name === 'language'
                  ? sayLanguage(value)
                  : name.startsWith('due_')
                    ? sayTime(value, session.workspace?.time_zone ?? 'UTC')
                    : name === 'since' || name === 'until'
                      ? sayDay(value)
                      : value))
      return {
        name,
        value,
        text: [
          'words',
          'since',
          'until',
          'language',
          'sentiment',
          'reads_as',
          'owner',
          'person_tag',
          'band',
          'due_from',
          'due_until',
        ].includes(name)
          ? `${TITLES[name]}: ${text}`
          : text,
      }
    }),
  ),
)
/** One group's inbox at a time, or all that one sees. */
const switches = computed(() => [
  { value: '', text: 'All accounts' },
  ...(directory.value?.groups ?? []).map((g) => ({ value: String(g.id), text: g.name })),
])
const ready = useReadyViews(
  computed(() => session.workspaceId),
  toRef(props, 'me'),
  toRef(props, 'views'),
)
const sayCount = (key: string, isShared: boolean): string =>
  [ready.counts.value.get(key), isShared ? 'shared' : ''].filter(Boolean).join(', ')
const viewChoices = computed(() => [
  ...ready.all.value.map((v) => ({
    value: `open ${v.key}`,
    text: v.name,
    hint: sayCount(v.key, v.saved?.shared ?? false),
  })),
  { value: 'save', text: 'Keep this as a view …' },
  ...props.views.filter((v) => v.own).map((v) => ({ value: `forget ${v.id}`, text: `Forget “${v.name}”` })),
  { value: 'out print', text: 'Print this list' },
  ...(session.may('export')
    ? [
        { value: 'out csv', text: 'Take this list out as CSV' },
        { value: 'out xlsx', text: 'Take this list out as a workbook' },
      ]
    : []),
])
/** The list that is shown, on paper or as a table of another program. */
function takeOut(how: string): void {
  const there = `/w/${session.workspaceId}/desk/print${window.location.search}`
  if (how === 'print') return void window.open(there, '_blank')
  const query = new URLSearchParams({ move: props.move })
  for (const [name, values] of Object.entries(toApi(props.filters)))
    for (const value of Array.isArray(values) ? (values as unknown[]) : [values]) query.append(name, String(value))
  window.location.assign(`/api/workspaces/${session.workspaceId}/conversations.${how}?${query.toString()}`)
}
function pickView(choice: string): void {
  if (choice === 'save') return emit('save')
  const [what, key = ''] = choice.split(' ')
  if (what === 'out') return takeOut(key)
  const view = ready.all.value.find((v) => v.key === key)
  if (what === 'open' && view) emit('view', view)
  else if (view?.saved) emit('forget', view.saved)
}
const { remember, giveBack } = useMemory(() => button.value?.$el)
function openPanel(): void {
  remember()
  button.value?.$el.click()
}
defineExpose({ open: openPanel, openViews: () => menu.value?.open() })
</script>

<template>
  <div
    class="relative flex shrink-0 flex-wrap items-center gap-1.5 border-b border-rule-soft bg-paper px-2.5 py-1 text-[0.78125rem]"
    data-test="filters">
    <TourMark :n="3" />
    <PickMenu
      v-if="switches.length > 1"
      label="Whose inbox"
      plain
      :choices="switches"
      data-test="inbox"
      @pick="(v) => emit('set', { ...filters, group: v ? [v] : [] })"
      ><span class="font-semibold">{{
        switches.find((s) => s.value === (filters.group?.[0] ?? ''))?.text
      }}</span></PickMenu
    >
    <Popover v-slot="{ close }">
      <PopoverButton
        ref="button"
        class="inline-flex items-center gap-1 rounded-full border border-rule bg-raised px-2.5 py-0.5 font-semibold hover:bg-fold"
        data-test="filter"
        >Filter <KeyCap keys="F"
      /></PopoverButton>
      <PopoverPanel
        class="absolute top-full left-1 z-30 max-h-[68vh] w-[390px] max-w-[96vw] scroll-quiet overflow-y-auto rounded-md border border-rule bg-raised p-3 shadow-xl"
        data-test="filter-panel"
        data-key-scope>
        <FilterPanel
          @vue:unmounted="giveBack"
          :groups="groups"
          :filters="filters"
          :move="move"
          @set="(f) => emit('set', f)"
          @all="(isAll) => emit('all', isAll)"
          @close="close()" />
      </PopoverPanel>
    </Popover>
    <button
      v-for="c in chips"
      :key="c.name + c.value"
      type="button"
      class="inline-flex max-w-48 items-center gap-1 rounded-full border border-pine bg-pine-wash px-2 py-0.5 font-semibold text-pine hover:line-through"
      :aria-label="`Take out ${c.text}`"
      data-test="chip"
      @click="emit('set', toggle(filters, c.name, c.value))">
      <span class="truncate">{{ c.text }}</span><span aria-hidden="true">×</span>
    </button>
    <button
      v-if="chips.length"
      type="button"
      class="font-semibold underline"
      data-test="clear"
      @click="emit('set', {})">
      clear
    </button>
    <span class="ml-auto flex">
      <PickMenu
        label="Order"
        plain
        align="right"
        :choices="ORDERS.map(([value, text]) => ({ value, text }))"
        @pick="(o) => emit('order', o)"
        >{{ ORDERS.find(([k]) => k === order)?.[1] }}</PickMenu
      >
      <PickMenu
        ref="menu"
        label="Views"
        plain
        align="right"
        :choices="viewChoices"
        @opening="ready.count()"
        @pick="pickView"
        >Views <KeyCap keys="V"
      /></PickMenu>
    </span>
    <p v-if="unread.length" role="status" class="w-full text-honey" data-test="unread-filters">
      This address asks for what Sorta cannot filter by, which is left out: {{ unread.join(', ') }}.
    </p>
  </div>
</template>
