<script setup lang="ts">
/** Find people and messages, go to any place, do any act: one field, arrows and Enter. */
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel } from '@headlessui/vue'
import { computed, ref, toRef, watch } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import { useFocusBack } from '@/composables/useFocusBack'
import { useKeys } from '@/composables/useKeys'
import type { Found } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { MOVE_WORDS } from '@/lib/words'
import { useSuggestion } from './useSuggestion'

export interface Doable {
  words: string
  key?: string
  run: () => void
}
/** `begun` is what was typed before it was here. */
const props = defineProps<{ workspaceId: number; doables: Doable[]; begun?: string }>()
const emit = defineEmits<{ close: []; open: [conversation: number]; person: [person: number]; all: [words: string] }>()
const { byNetwork } = useDirectory()

const words = ref(props.begun ?? '')
useFocusBack()
const panel = ref<{ $el: HTMLElement } | null>(null)
useKeys({ Escape: () => emit('close') }, () => panel.value?.$el)
const NOTHING: Found = { people: [], messages: [], has_more: false, is_ready: true }
const found = ref(NOTHING)
const problem = ref<string | null>(null)
const isAsking = ref(false)
let turn = 0

watch(
  words,
  async (now) => {
    const mine = ++turn
    if (!now.trim()) {
      found.value = NOTHING
      return
    }
    isAsking.value = true
    await new Promise((resolve) => setTimeout(resolve, 120))
    if (mine !== turn) return
    try {
      const answer = await take(
        api.GET('/api/workspaces/{workspace_id}/find', {
          params: { path: { workspace_id: props.workspaceId }, query: { words: now } },
        }),
      )
      if (mine === turn) found.value = answer
      problem.value = null
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = error.message
    } finally {
      if (mine === turn) isAsking.value = false
    }
  },
  { immediate: true },
)

const acts = computed(() =>
  props.doables
    .filter((d) => d.words.toLowerCase().includes(words.value.trim().toLowerCase()))
    .slice(0, words.value ? 6 : 30),
)
const isNothing = computed(
  () =>
    words.value.trim() &&
    !isAsking.value &&
    !acts.value.length &&
    !found.value.people.length &&
    !found.value.messages.length,
)

const suggestion = useSuggestion(
  toRef(props, 'workspaceId'),
  words,
  computed(() => !isAsking.value && !found.value.people.length && !found.value.messages.length),
)

interface Choice {
  key: string
  /** Choosing it goes on here. */
  stays?: boolean
  /** What it is called, in pieces, those that were found marked. */
  title: { text: string; isFound: boolean }[]
  about: string
  hint?: string
  run: () => void
}
const groups = computed<{ name: string; choices: Choice[] }[]>(() => [
  {
    name: 'Did you mean',
    choices: suggestion.value
      ? [
          {
            key: 'meant',
            title: [{ text: suggestion.value, isFound: false }],
            about: 'stands here',
            stays: true,
            run: () => (words.value = suggestion.value ?? ''),
          },
        ]
      : [],
  },
  {
    name: 'People',
    choices: found.value.people.map((p) => ({
      key: `p${p.person_id}${p.network}${p.handle}`,
      title: [{ text: p.name, isFound: false }],
      about: `@${p.handle.replace(/^@/, '')} on ${networkOf(p.network)}`,
      run: () => emit('person', p.person_id),
    })),
  },
  {
    name: 'Messages',
    choices: [
      ...found.value.messages.map((m) => ({
        key: `m${m.message_id}`,
        title: cut(m.body, m.marks),
        about: `${m.person_name}, ${networkOf(m.network)}, ${MOVE_WORDS[m.move]}`,
        run: () => emit('open', m.conversation_id),
      })),
      ...(found.value.messages.length
        ? [
            {
              key: 'all',
              title: [
                { text: found.value.has_more ? 'All that is found, as a list' : 'These as a list', isFound: false },
              ],
              about: 'over all moves',
              run: () => emit('all', words.value.trim()),
            },
          ]
        : []),
    ],
  },
  {
    name: 'Go to or do',
    choices: acts.value.map((a) => ({
      key: `a${a.words}`,
      title: [{ text: a.words, isFound: false }],
      about: '',
      hint: a.key ?? '',
      run: a.run,
    })),
  },
])
/** A text in pieces, by where what was found stands in it; places count whole characters, as the server does. */
function cut(text: string, marks: number[][]): { text: string; isFound: boolean }[] {
  const signs = [...text]
  const pieces: { text: string; isFound: boolean }[] = []
  let at = 0
  for (const [begins = 0, ends = 0] of marks) {
    if (begins < at) continue
    pieces.push({ text: signs.slice(at, begins).join(''), isFound: false })
    pieces.push({ text: signs.slice(begins, ends).join(''), isFound: true })
    at = ends
  }
  return [...pieces, { text: signs.slice(at).join(''), isFound: false }].filter((one) => one.text)
}
const isHelping = ref(false)
function pick(choice: Choice | null): void {
  if (!choice) return
  if (!choice.stays) emit('close')
  choice.run()
}
const networkOf = (key: string): string => byNetwork.value.get(key)?.name ?? key
</script>

<template>
  <Dialog open aria-label="Find or do" class="relative z-40" @close="emit('close')">
    <div class="fixed inset-0 bg-band/40" aria-hidden="true" />
    <div class="fixed inset-0 flex items-start justify-center p-4 pt-[10vh]">
      <DialogPanel
        ref="panel"
        class="flex max-h-[70vh] w-full max-w-xl flex-col overflow-hidden rounded-lg border border-rule bg-sheet shadow-xl">
        <Combobox :model-value="null" @update:model-value="pick">
          <ComboboxInput
            class="w-full border-b border-rule bg-raised px-4 py-3 text-base focus:outline-none"
            placeholder="Find a person or words, or do something …"
            aria-label="Find or do"
            autocomplete="off"
            :display-value="() => words"
            data-test="find"
            @change="words = $event.target.value" />
          <p v-if="problem" role="alert" class="px-4 py-2 text-brick">{{ problem }}</p>
          <p v-if="isNothing" class="px-4 py-6 text-center text-ink-2">Nothing here has all of these words.</p>
          <p
            v-if="!found.is_ready"
            role="status"
            class="px-4 py-1 text-[0.8125rem] text-honey-ink"
            data-test="find-unready">
            Older messages are being made ready to be found by words, the newest first; some are not found yet.
          </p>
          <ComboboxOptions static data-inline class="scroll-quiet overflow-y-auto py-1">
            <template v-for="group in groups" :key="group.name">
              <li
                v-if="group.choices.length"
                role="presentation"
                class="px-4 pt-2 pb-1 text-xs font-semibold text-ink-2">
                {{ group.name }}
              </li>
              <ComboboxOption
                v-for="choice in group.choices"
                :key="choice.key"
                v-slot="{ active }"
                :value="choice"
                as="template">
                <li class="flex cursor-pointer items-baseline gap-3 px-4 py-1.5" :class="active ? 'bg-pine-wash' : ''">
                  <span class="truncate" :class="group.name === 'People' ? 'font-semibold' : ''" dir="auto"
                    ><component :is="one.isFound ? 'mark' : 'span'" v-for="(one, n) in choice.title" :key="n">{{
                      one.text
                    }}</component></span
                  >
                  <span class="ml-auto shrink-0 text-xs text-ink-2"
                    >{{ choice.about }}<kbd v-if="choice.hint">{{ choice.hint }}</kbd></span
                  >
                </li>
              </ComboboxOption>
            </template>
          </ComboboxOptions>
          <div class="border-t border-rule px-4 py-1.5 text-xs text-ink-2">
            <button
              type="button"
              class="font-semibold underline"
              :aria-expanded="isHelping"
              data-test="find-help"
              @mousedown.prevent
              @click="isHelping = !isHelping">
              How to write it
            </button>
            <ul v-if="isHelping" class="mt-1 mb-1 space-y-0.5">
              <li><b>queue seals</b> both words, in any order</li>
              <li><b>"season pass"</b> one after the other</li>
              <li><b>pass -season</b> the first without the second</li>
              <li><b>refund*</b> whatever begins so</li>
              <li><b>@marek.rask</b>, <b>B-2207</b>, <b>2207</b> handles and numbers, as they stand or in part</li>
              <li>Capitals and accents do not matter: <b>odegard</b> finds Ødegård.</li>
            </ul>
          </div>
        </Combobox>
      </DialogPanel>
    </div>
  </Dialog>
</template>
