<script setup lang="ts">
/** Links that texts call by a name, and the short links of what went out with their clicks. */
import WhatIs from '@/features/help/WhatIs.vue'
import { useAsk } from '@/composables/useAsk'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { KeptLink, Links } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; mayManage: boolean; zone: string }>()
const { accounts, byNetwork } = useDirectory()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, refetch } = useAsk<Links>('The links', {
  key: () => ['links', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/links', { params: { path: path.value } })),
})
const name = ref('')
const target = ref('')
const { problem, attempt } = useAttempt(refetch)
const keep = (): Promise<boolean> =>
  attempt(async () => {
    await take(
      api.PUT('/api/workspaces/{workspace_id}/links/kept', {
        params: { path: path.value },
        body: { name: name.value, target: target.value },
      }),
    )
    name.value = target.value = ''
  })
const forget = (one: KeptLink): Promise<boolean> =>
  attempt(() =>
    take(
      api.DELETE('/api/workspaces/{workspace_id}/links/kept/{link_id}', {
        params: { path: { ...path.value, link_id: one.id } },
      }),
    ),
  )
const networkOf = (id: number): string =>
  byNetwork.value.get(accounts.value?.find((a) => a.id === id)?.network ?? '')?.name ?? ''
const field = 'rounded border border-rule bg-raised px-1.5 py-0.5'
</script>

<template>
  <section id="links" class="mb-8 scroll-mt-4" aria-labelledby="links-title" data-test="links">
    <h2 id="links-title" class="font-name text-lg font-bold">Links</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Links in answers go out short, with UTM tags<WhatIs id="utm" word="UTM" class="-my-1.5" /> for their network and
      page. Clicks of programs and of members are not counted. A kept link is written as <code>{link:name}</code>: where
      it leads can be changed in one place.
    </p>
    <ul v-if="data?.kept.length" class="mb-2 rounded-md border border-rule bg-sheet">
      <li
        v-for="one in data.kept"
        :key="one.id"
        class="flex items-baseline gap-3 border-b border-rule-soft px-4 py-1.5 last:border-0"
        data-test="kept-link">
        <code class="w-40 shrink-0 truncate">{link:{{ one.name }}}</code
        ><span class="truncate text-[0.8125rem] text-ink-2">{{ one.target }}</span
        ><button
          v-if="mayManage"
          type="button"
          class="ml-auto text-[0.8125rem] underline"
          :aria-label="`Remove ${one.name}`"
          @click="forget(one)">
          Remove
        </button>
      </li>
    </ul>
    <form v-if="mayManage" class="mb-3 flex flex-wrap items-center gap-2 text-[0.8125rem]" @submit.prevent="keep">
      <input
        v-model="name"
        required
        maxlength="40"
        :class="[field, 'w-36']"
        placeholder="name"
        aria-label="Name of the link"
        data-test="link-name" /><input
        v-model="target"
        required
        maxlength="2000"
        :class="[field, 'w-80']"
        placeholder="https://"
        aria-label="Where it leads"
        data-test="link-target" /><button type="submit" class="rounded bg-pine px-3 py-1 font-bold text-on-pine">
        Keep</button
      ><span v-if="problem" role="alert" class="text-brick">{{ problem }}</span>
    </form>
    <table v-if="data?.short.length" class="w-full rounded-md border border-rule bg-sheet text-left text-[0.8125rem]">
      <thead>
        <tr class="border-b border-rule-soft text-xs text-ink-2">
          <th class="px-4 py-1.5 font-semibold">Short link</th>
          <th class="font-semibold">Leads to</th>
          <th class="font-semibold">On</th>
          <th class="text-right font-semibold">Clicks</th>
          <th class="px-3 text-right font-semibold">Last {{ data.days }} days</th>
          <th class="font-semibold">Last</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="one in data.short.slice(0, 50)"
          :key="one.id"
          class="border-b border-rule-soft last:border-0"
          data-test="short-link">
          <td class="px-4 py-1 font-semibold">/l/{{ one.address.split('/').at(-1) }}</td>
          <td class="max-w-72 truncate" :title="one.target">{{ one.target.replace(/^https?:\/\//, '') }}</td>
          <td>{{ networkOf(one.account_id) }}</td>
          <td class="text-right tabular-nums" :title="one.apart ? `${one.apart} more by programs and members` : ''">
            {{ one.clicks }}
          </td>
          <td class="px-3 text-right tabular-nums">{{ one.lately }}</td>
          <td>{{ one.last_at ? sayTime(one.last_at, zone) : 'never' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data" class="text-[0.8125rem] text-ink-2">No link has gone out yet.</p>
  </section>
</template>
