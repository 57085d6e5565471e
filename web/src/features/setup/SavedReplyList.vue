<script setup lang="ts">
/** Saved replies: written, changed, put away; a change says whom it concerns before it is made. */
import { useAsk } from '@/composables/useAsk'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { Concerns, SavedReply } from '@/api/types'
import MultiPick from '@/components/ui/MultiPick.vue'
import { useDirectory } from '@/composables/useDirectory'
import { LANGUAGES, sayLanguage } from '@/lib/filters'
import { sayList } from '@/lib/rules'
import { sayTime } from '@/lib/words'

const props = defineProps<{ workspaceId: number; mayManage: boolean; zone: string }>()
const { directory, accounts, byNetwork, sayMember } = useDirectory()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const isSeeingArchived = ref(false)
const words = ref('')
const { data, refetch } = useAsk<SavedReply[]>('The saved replies', {
  key: () => ['saved-replies', props.workspaceId, isSeeingArchived.value],
  query: () =>
    take(
      api.GET('/api/workspaces/{workspace_id}/saved-replies', {
        params: { path: path.value, query: { archived: isSeeingArchived.value } },
      }),
    ),
})
const shown = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (data.value ?? []).filter((r) =>
    wanted.every((w) => `${r.body.name} ${r.body.shortcut} ${r.body.text}`.toLowerCase().includes(w)),
  )
})
const draft = ref<{
  id: number
  name: string
  text: string
  shortcut: string
  language: string
  accounts: number[]
  groups: number[]
} | null>(null)
const concerns = ref<Concerns | null>(null)
const accountName = (id: number): string => {
  const a = accounts.value?.find((x) => x.id === id)
  return a ? `${a.name} on ${byNetwork.value.get(a.network)?.name}` : 'an account that is gone'
}
const groupName = (id: number): string =>
  directory.value?.groups.find((g) => g.id === id)?.name ?? 'a group that is gone'
function sayFor(r: SavedReply): string {
  const places = [...(r.body.accounts ?? []).map(accountName), ...(r.body.groups ?? []).map(groupName)]
  return [
    places.length ? sayList(places, 'or') : 'any account',
    r.body.language ? `in ${sayLanguage(r.body.language)}` : '',
  ]
    .filter(Boolean)
    .join(', ')
}
async function edit(r?: SavedReply): Promise<void> {
  problem.value = ''
  concerns.value = null
  const b = r?.body
  draft.value = {
    id: r?.id ?? 0,
    name: b?.name ?? '',
    text: b?.text ?? '',
    shortcut: b?.shortcut ?? '',
    language: b?.language ?? '',
    accounts: [...(b?.accounts ?? [])],
    groups: [...(b?.groups ?? [])],
  }
  if (r)
    concerns.value = await take(
      api.GET('/api/workspaces/{workspace_id}/saved-replies/{saved_reply_id}/concerns', at(r.id)),
    )
}
const at = (id: number) => ({ params: { path: { ...path.value, saved_reply_id: id } } })
const { problem, attempt } = useAttempt(refetch)
/** What was being written is done with once it is kept. */
async function keep(work: () => Promise<unknown>): Promise<void> {
  if (await attempt(work)) draft.value = null
}
const save = (): Promise<void> =>
  keep(async () => {
    const d = draft.value
    if (!d) return
    const body = {
      name: d.name,
      text: d.text,
      shortcut: d.shortcut,
      language: d.language || null,
      accounts: d.accounts,
      groups: d.groups,
    }
    if (d.id)
      await take(api.PUT('/api/workspaces/{workspace_id}/saved-replies/{saved_reply_id}', { ...at(d.id), body }))
    else await take(api.POST('/api/workspaces/{workspace_id}/saved-replies', { params: { path: path.value }, body }))
  })
const archive = (r: SavedReply): Promise<void> =>
  keep(() =>
    take(
      api.PUT('/api/workspaces/{workspace_id}/saved-replies/{saved_reply_id}/archived', {
        ...at(r.id),
        body: { archived: r.archived_at === null },
      }),
    ),
  )
const field = 'rounded border border-rule bg-raised px-1.5 py-0.5'
</script>

<template>
  <section id="saved-replies" class="mb-8 scroll-mt-4" aria-labelledby="saved-title" data-test="saved-replies">
    <div class="flex flex-wrap items-baseline gap-3">
      <h2 id="saved-title" class="font-name text-lg font-bold">Saved replies</h2>
      <input
        v-model="words"
        type="search"
        :class="[field, 'ml-auto w-48 text-[0.8125rem]']"
        placeholder="Find …"
        aria-label="Find saved replies" /><label class="flex items-center gap-1.5 text-[0.8125rem]"
        ><input v-model="isSeeingArchived" type="checkbox" class="accent-pine" />with archived ones</label
      >
    </div>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Texts that are used again and again. <code>{first name}</code>, <code>{account}</code> and
      <code>{link:name}</code> are filled in; on the desk <b>/</b> finds them, and those that answered something like it
      before are suggested.
    </p>
    <p v-if="problem && !draft" role="alert" class="mb-2 text-[0.8125rem] text-brick">{{ problem }}</p>
    <ul class="rounded-md border border-rule bg-sheet">
      <li v-if="mayManage" class="border-b border-rule-soft px-4 py-2">
        <button
          v-if="!draft"
          type="button"
          class="rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold"
          data-test="new-saved"
          @click="edit()">
          New saved reply
        </button>
        <form v-else class="grid gap-2 text-[0.8125rem]" @submit.prevent="save">
          <p class="flex flex-wrap items-center gap-3">
            <label
              >Name
              <input
                v-model="draft.name"
                required
                maxlength="80"
                :class="[field, 'w-56']"
                data-test="saved-name" /></label
            ><label
              >Shortcut /
              <input v-model="draft.shortcut" maxlength="24" :class="[field, 'w-28']" data-test="saved-shortcut"
            /></label>
            <label
              >Language
              <select v-model="draft.language" :class="field">
                <option value="">any</option>
                <option v-for="code in LANGUAGES" :key="code" :value="code">{{ sayLanguage(code) }}</option>
              </select></label
            >
            for
            <MultiPick
              v-model="draft.accounts"
              label="Accounts"
              empty="any account"
              :choices="(accounts ?? []).map((a) => ({ value: a.id, text: accountName(a.id) }))" />
            <MultiPick
              v-if="directory?.groups.length"
              v-model="draft.groups"
              label="Account groups"
              empty="no group"
              :choices="directory.groups.map((g) => ({ value: g.id, text: g.name }))" />
          </p>
          <textarea
            v-model="draft.text"
            required
            rows="4"
            maxlength="2000"
            spellcheck="true"
            :lang="draft.language || 'en'"
            dir="auto"
            :class="[field, 'w-full text-[0.9375rem]']"
            aria-label="Text"
            data-test="saved-text" />
          <p
            v-if="concerns && (concerns.rules.length || concerns.members.length)"
            class="border-l-[3px] border-honey-line bg-honey-wash px-2 py-1 text-honey-ink"
            data-test="concerns">
            A change concerns
            <template v-if="concerns.rules.length"
              >{{ concerns.rules.length === 1 ? 'the rule' : 'the rules' }}
              {{
                sayList(
                  concerns.rules.map((r) => `“${r.name}”`),
                  'and',
                )
              }}, which {{ concerns.rules.length === 1 ? 'answers' : 'answer' }} with it{{
                concerns.members.length ? ', and ' : ''
              }}</template
            ><template v-if="concerns.members.length"
              >{{
                sayList(
                  concerns.members.map((m) => `${sayMember(m.member_id)} (${m.uses})`),
                  'and',
                )
              }}, who used it in the last {{ concerns.days }} days</template
            >.
          </p>
          <p v-if="problem" role="alert" class="text-brick">{{ problem }}</p>
          <p class="flex gap-2">
            <button type="submit" class="rounded bg-pine px-3 py-1 font-bold text-on-pine" data-test="save-saved">
              Save</button
            ><button type="button" class="rounded px-3 py-1 font-semibold hover:bg-fold" @click="draft = null">
              Cancel
            </button>
          </p>
        </form>
      </li>
      <li
        v-for="r in shown"
        :key="r.id"
        class="flex items-baseline gap-3 border-b border-rule-soft px-4 py-2 last:border-0"
        :class="r.archived_at ? 'text-ink-2' : ''"
        data-test="saved">
        <span class="min-w-0 flex-1"
          ><b>{{ r.body.name }}</b>
          <code v-if="r.body.shortcut" class="text-xs text-ink-2">/{{ r.body.shortcut }}</code>
          <span v-if="r.archived_at" class="text-xs font-semibold">archived</span
          ><span class="line-clamp-2 text-[0.8125rem] text-ink-2" dir="auto">{{ r.body.text }}</span
          ><span class="text-xs text-ink-2"
            >For {{ sayFor(r) }}.
            {{
              r.uses
                ? `Used ${r.uses === 1 ? 'once' : `${r.uses} times`}, last ${sayTime(r.last_used_at ?? '', zone)}`
                : 'Not used yet'
            }}. Last changed by {{ sayMember(r.changed_by) }}.</span
          ></span
        >
        <span v-if="mayManage" class="flex gap-3 text-[0.8125rem] whitespace-nowrap"
          ><button v-if="!r.archived_at" type="button" class="underline" @click="edit(r)">Change</button
          ><button type="button" class="underline" @click="archive(r)">
            {{ r.archived_at ? 'Bring back' : 'Archive' }}
          </button></span
        >
      </li>
      <li v-if="data && !shown.length" class="px-4 py-3 text-ink-2">
        {{ words ? 'No saved reply has all of these words.' : 'None yet. Write the first for what you answer most.' }}
      </li>
    </ul>
  </section>
</template>
