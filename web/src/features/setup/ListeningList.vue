<script setup lang="ts">
/** Saved words that are searched for on the networks that allow it. */
import { useAsk } from '@/composables/useAsk'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { Listening } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const props = defineProps<{ workspaceId: number; mayManage: boolean }>()
const session = useSession()
const { accounts, byNetwork } = useDirectory()
const words = ref('')
const accountId = ref<number | null>(null)
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, refetch } = useAsk<Listening[]>('What is listened for', {
  key: () => ['listening', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/listening', { params: { path: path.value } })),
})
const able = computed(() => (accounts.value ?? []).filter((a) => byNetwork.value.get(a.network)?.search))
const unable = computed(() => [...byNetwork.value.values()].filter((n) => !n.search).map((n) => n.name))
/** Those that find no word by its beginning. */
const wholeWords = computed(() =>
  [...byNetwork.value.values()].filter((n) => n.search && !n.search_beginnings).map((n) => n.name),
)

const { problem, attempt } = useAttempt(refetch)
const add = (): Promise<boolean> =>
  attempt(async () => {
    const account = accountId.value ?? able.value[0]?.id
    if (account === undefined) return
    await take(
      api.POST('/api/workspaces/{workspace_id}/listening', {
        params: { path: path.value },
        body: { words: words.value, account_id: account },
      }),
    )
    words.value = ''
  })
const forget = (one: Listening): Promise<boolean> =>
  attempt(() =>
    take(
      api.DELETE('/api/workspaces/{workspace_id}/listening/{listening_id}', {
        params: { path: { ...path.value, listening_id: one.id } },
      }),
    ),
  )
</script>

<template>
  <section class="mb-8" aria-labelledby="listening-title">
    <h2 id="listening-title" class="font-name text-lg font-bold">Listening</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      What people say without naming us comes to the desk as ‘found’. Words, "a phrase", -not and begin* mean what they
      mean when one finds. {{ unable.join(', ') }} let nobody search.
      <template v-if="wholeWords.length"
        >{{ wholeWords.join(', ') }} {{ wholeWords.length === 1 ? 'searches' : 'search' }} for whole words only: one
        that ends in a star needs another beside it there.</template
      >
    </p>
    <ul v-if="data?.length" class="mb-2 rounded-md border border-rule bg-sheet">
      <li
        v-for="one in data"
        :key="one.id"
        class="flex items-baseline gap-3 border-b border-rule-soft px-4 py-2 last:border-0"
        data-test="listening">
        <b>{{ one.words }}</b>
        <span class="text-[0.8125rem] text-ink-2"
          >on {{ byNetwork.get(one.network)?.name }}, {{ one.found }} found{{
            one.asked_at
              ? `, last asked ${sayTime(one.asked_at, session.workspace?.time_zone ?? 'UTC')}`
              : ', not asked yet'
          }}</span
        >
        <span v-if="one.problem" role="status" class="text-[0.8125rem] text-honey">{{ one.problem }}</span>
        <button
          v-if="mayManage"
          type="button"
          class="ml-auto text-[0.8125rem] underline"
          :aria-label="`Stop listening for ${one.words}`"
          @click="forget(one)">
          Stop
        </button>
      </li>
    </ul>
    <form v-if="mayManage && able.length" class="flex flex-wrap items-center gap-2" @submit.prevent="add">
      <input
        v-model="words"
        class="w-56 rounded border border-rule bg-raised px-2 py-1"
        placeholder='brinewick "sea horse" -job'
        aria-label="Words to listen for"
        data-test="listen-for" />
      <select v-model="accountId" class="rounded border border-rule bg-raised px-2 py-1" aria-label="Where to listen">
        <option :value="null">{{ able[0] ? byNetwork.get(able[0].network)?.name : '' }}</option>
        <option v-for="a in able.slice(1)" :key="a.id" :value="a.id">{{ byNetwork.get(a.network)?.name }}</option>
      </select>
      <button type="submit" class="rounded bg-pine px-3 py-1 font-bold text-on-pine">Listen</button>
      <span v-if="problem" role="alert" class="text-[0.8125rem] text-brick">{{ problem }}</span>
    </form>
  </section>
</template>
