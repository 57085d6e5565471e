<script setup lang="ts">
/** Conversations of a file that an export made, or another program that speaks ActivityStreams: brought in piece by piece. */
import { ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Brought } from '@/api/types'

const props = defineProps<{ workspaceId: number }>()
/** So many conversations, or characters of them, go at once. */
const MOST = 100
const LARGEST = 500_000
const settle = ref(true)
const problem = ref('')
const done = ref(0)
const total = ref(0)
const sum = ref<Brought | null>(null)
const isBusy = ref(false)

type Thing = Record<string, unknown>
const isThing = (value: unknown): value is Thing => typeof value === 'object' && value !== null
const listItems = (of: Thing): unknown[] => {
  const items = of.orderedItems ?? of.items
  return Array.isArray(items) ? items : items === undefined ? [] : [items]
}
/** A file's conversations, some at a time: it is a collection of them, or one of them. */
function cut(file: unknown): Thing[][] {
  if (!isThing(file)) return []
  const items = listItems(file)
  const all = items.every((item) => isThing(item) && ('orderedItems' in item || 'items' in item)) ? items : [file]
  const pieces: Thing[][] = []
  let size = LARGEST
  for (const one of all) {
    const length = JSON.stringify(one).length
    if (size + length > LARGEST || (pieces.at(-1)?.length ?? MOST) >= MOST) {
      pieces.push([])
      size = 0
    }
    pieces.at(-1)?.push(one as Thing)
    size += length
  }
  return pieces
}
const add = (a: Brought | null, b: Brought): Brought =>
  a
    ? {
        conversations: a.conversations + b.conversations,
        new_conversations: a.new_conversations + b.new_conversations,
        messages: a.messages + b.messages,
        known: a.known + b.known,
        left_out: [...a.left_out, ...b.left_out].slice(0, 200),
        more_left_out: a.more_left_out + b.more_left_out + Math.max(0, a.left_out.length + b.left_out.length - 200),
      }
    : b

async function bringIn(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file || isBusy.value) return
  problem.value = ''
  sum.value = null
  done.value = total.value = 0
  isBusy.value = true
  try {
    const pieces = cut(JSON.parse(await file.text()))
    total.value = pieces.reduce((n, piece) => n + piece.length, 0)
    if (!total.value) throw new SyntaxError('it holds no collection of conversations')
    for (const piece of pieces) {
      const found = await take(
        api.POST('/api/workspaces/{workspace_id}/conversations/import', {
          params: { path: { workspace_id: props.workspaceId } },
          body: { document: { type: 'OrderedCollection', orderedItems: piece }, settle: settle.value },
        }),
      )
      sum.value = add(sum.value, found)
      done.value += piece.length
    }
  } catch (error) {
    if (error instanceof SyntaxError) problem.value = `${file.name} cannot be read: ${error.message}.`
    else if (error instanceof ApiProblem)
      problem.value = `It stopped after ${done.value} of ${total.value} conversations: ${error.message} What came in is kept; choose the file again to go on.`
    else throw error
  } finally {
    isBusy.value = false
    input.value = ''
  }
}
</script>

<template>
  <section class="mb-8" aria-labelledby="import-title" data-test="import">
    <h2 id="import-title" class="font-name text-lg font-bold">Bring in conversations</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      From a file of ActivityStreams collections, such as a report’s conversations exported here. They come onto the
      accounts they were had on, as history: no rule reads them, and nobody is answered. What is here already changes
      nothing, so the same file can be brought in again.
    </p>
    <div class="rounded-md border border-rule bg-sheet p-4 text-[0.84375rem]">
      <label class="mb-2 flex items-center gap-1.5"
        ><input v-model="settle" type="checkbox" class="accent-pine" /> What the file does not say to be settled needs
        no reply</label
      >
      <label
        class="inline-block cursor-pointer rounded border border-rule bg-raised px-2.5 py-1 font-semibold focus-within:outline-2 focus-within:outline-pine hover:bg-fold"
        :class="isBusy ? 'opacity-50' : ''"
        >Choose a file<input
          type="file"
          accept="application/json,application/activity+json,.json"
          class="sr-only"
          :disabled="isBusy"
          data-test="import-file"
          @change="bringIn"
      /></label>
      <p v-if="problem" role="alert" class="mt-2 text-brick" data-test="import-problem">{{ problem }}</p>
      <div v-if="isBusy || sum" role="status" class="mt-2" data-test="import-result">
        <p v-if="isBusy" class="text-ink-2">{{ done }} of {{ total || '…' }} conversations</p>
        <p v-if="sum">
          <b>{{ sum.messages }} new messages</b>, {{ sum.new_conversations }} new conversations;
          {{ sum.known }} messages were here already.
        </p>
      </div>
      <template v-if="sum?.left_out.length">
        <p class="mt-2 font-semibold text-honey-ink">Left out:</p>
        <ul class="ml-4 list-disc text-[0.8125rem]" data-test="import-left-out">
          <li v-for="(one, n) in sum.left_out" :key="n">{{ one.where }}: {{ one.why }}</li>
          <li v-if="sum.more_left_out">and {{ sum.more_left_out }} more</li>
        </ul>
      </template>
    </div>
  </section>
</template>
