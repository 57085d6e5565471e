<script setup lang="ts">
/** One person: who they are where, what the team knows, what is to be done, and every contact there was. */
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { Profile } from '@/api/types'
import WhatIs from '@/features/help/WhatIs.vue'
import TagDialog from '@/components/ui/TagDialog.vue'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import { useDirectory } from '@/composables/useDirectory'
import { KINDS, MOVE_WORDS, sayTime, SETTLED } from '@/lib/words'
import EraseDialog from './EraseDialog.vue'
import FollowUpForm from './FollowUpForm.vue'
import type { ProfileState } from './useProfile'

const props = defineProps<{
  person: Profile
  state: ProfileState
  workspaceId: number
  zone: string
  me: number
  maySort: boolean
  mayModerate: boolean
  mayExport: boolean
  mayErase: boolean
}>()
const emit = defineEmits<{ erased: [] }>()
const { byNetwork, byTag, offeredTags, members, sayMember, refetchDirectory } = useDirectory()
const factName = ref('')
const factValue = ref('')
const isTagging = ref(false)
const isErasing = ref(false)
const KNOWN = ['Customer number', 'Mail', 'Phone', 'Note']
const everything = computed(() => `/api/workspaces/${props.workspaceId}/people/${props.person.id}/everything`)
const says = (kind: string, n: number): string =>
  `${n} ${kind === 'reaction' ? 'reaction' : KINDS[kind]}${n === 1 ? '' : 's'}`
    .replace('reply' + 's', 'replies')
    .replace('entrys', 'entries')

async function saveFact(): Promise<void> {
  if (await props.state.addFact(factName.value || 'Note', factValue.value)) factName.value = factValue.value = ''
}
async function tag(changes: { name: string; on: boolean }[]): Promise<void> {
  isTagging.value = false
  for (const { name, on } of changes) if (!(await props.state.setTag(name, on))) break
  await refetchDirectory()
}
</script>

<template>
  <article class="min-h-0 scroll-quiet overflow-y-auto bg-sheet px-6 py-4" data-test="profile">
    <header class="mb-4 flex flex-wrap items-start gap-x-4 gap-y-1 border-b border-rule-soft pb-3">
      <div class="min-w-0 flex-1">
        <h1 class="font-name text-2xl font-bold">
          {{ person.name }} <b v-if="person.blocked" class="font-sans text-sm text-brick">blocked</b>
        </h1>
        <p class="text-[0.8125rem] text-ink-2">
          {{ person.messages }} {{ person.messages === 1 ? 'message' : 'messages' }} in {{ person.conversations }}
          {{ person.conversations === 1 ? 'conversation' : 'conversations' }}, first
          {{ sayTime(person.first_at, zone) }}
        </p>
        <p class="mt-1.5 flex flex-wrap items-center gap-1.5">
          <button
            v-for="t in person.tags"
            :key="t"
            type="button"
            class="rounded-sm bg-fold px-1.5 text-[0.8125rem] hover:line-through disabled:no-underline"
            :disabled="!maySort"
            :aria-label="`Take the tag ${byTag.get(t)} off`"
            @click="tag([{ name: byTag.get(t) ?? '', on: false }])">
            {{ byTag.get(t) }}
          </button>
          <button
            v-if="maySort"
            type="button"
            class="text-[0.8125rem] font-semibold text-pine underline"
            data-test="tag-person"
            @click="isTagging = true">
            Tag
          </button>
        </p>
      </div>
      <div v-if="person.standing !== null" class="w-64" data-test="worth">
        <p class="flex items-center gap-2.5">
          <b class="font-name text-4xl leading-none text-sky">{{ person.standing }}</b><span
            class="flex-1 text-xs text-ink-2"
            ><span class="mb-1 block h-1.5 rounded bg-fold"
              ><i class="block h-1.5 rounded bg-sky" :style="{ width: `${person.standing}%` }" /></span
            >standing: {{ (person.points ?? 0).toFixed(1) }} points<WhatIs id="standing" word="standing" class="-my-1"
          /></span>
        </p>
        <ul class="mt-1 text-xs text-ink-2">
          <li v-for="w in person.worth" :key="w.kind" class="flex justify-between">
            <span>{{ says(w.kind, w.n) }}</span><span>{{ w.points.toFixed(1) }}</span>
          </li>
        </ul>
      </div>
    </header>
    <p
      v-if="state.problem.value"
      role="alert"
      class="mb-3 rounded bg-brick-wash px-3 py-1.5 text-[0.8125rem] text-brick">
      {{ state.problem.value }}
    </p>

    <section
      v-if="maySort && person.suggestions.length"
      class="mb-4 rounded-md border border-sky bg-sky-wash px-3 py-2 text-[0.8125rem]"
      aria-label="May be the same person"
      data-test="suggestions">
      <h2 class="mb-1 font-semibold text-sky">May be the same person</h2>
      <p v-for="s in person.suggestions" :key="s.person_id" class="flex items-baseline gap-2 py-0.5">
        <RouterLink
          class="font-semibold underline"
          :to="{ name: 'people', params: { workspace: String(workspaceId), person: String(s.person_id) } }"
          >{{ s.name }}</RouterLink
        >
        <span class="text-ink-2">{{ s.reasons.join(', ') }}</span>
        <button type="button" class="ml-auto font-semibold text-pine underline" @click="state.join(s.person_id)">
          Join with {{ person.name.split(' ')[0] }}
        </button>
      </p>
    </section>

    <div class="grid gap-x-8 gap-y-5 lg:grid-cols-2">
      <section>
        <h2 class="mb-1 text-xs font-semibold text-ink-2">On the networks</h2>
        <p
          v-for="i in person.identities"
          :key="i.id"
          class="flex items-center gap-2 border-b border-dotted border-rule py-1 text-[0.8125rem]">
          <NetworkMark
            :letters="byNetwork.get(i.network)?.letters ?? ''"
            :name="byNetwork.get(i.network)?.name ?? ''" />
          <span class="min-w-0 truncate"
            ><b class="text-sky">@{{ i.handle.replace(/^@/, '') }}</b
            >{{ ' ' }}
            <span class="text-ink-2"
              >{{ byNetwork.get(i.network)?.name
              }}<template v-if="i.reach !== null">, reach {{ i.reach }}</template></span
            ></span
          >
          <button
            v-if="mayModerate && i.can_block && i.latest_message_id"
            type="button"
            class="ml-auto underline"
            :class="person.blocked ? 'text-pine' : 'text-brick'"
            @click="state.block(i.latest_message_id, !person.blocked)">
            {{ person.blocked ? 'Unblock' : 'Block' }}
          </button>
        </p>
        <p
          v-for="j in person.joins"
          :key="j.id"
          class="flex items-baseline gap-2 py-1 text-[0.8125rem] text-ink-2"
          data-test="joined">
          Joined with {{ j.name }} by {{ sayMember(j.member_id) }}, {{ sayTime(j.at, zone) }}
          <button v-if="maySort" type="button" class="ml-auto underline" @click="state.takeApart(j.id)">
            Separate again
          </button>
        </p>
      </section>
      <section aria-labelledby="facts-title">
        <h2 id="facts-title" class="mb-1 text-xs font-semibold text-ink-2">What we know</h2>
        <p
          v-for="f in person.facts"
          :key="f.id"
          class="flex items-baseline gap-2 border-b border-dotted border-rule py-1 text-[0.8125rem]"
          data-test="fact">
          <span class="text-ink-2">{{ f.name }}</span><b class="min-w-0 break-words">{{ f.value }}</b>
          <span
            v-if="f.is_one_of_two"
            class="rounded-sm bg-honey-wash px-1.5 text-xs whitespace-nowrap text-honey-ink"
            data-test="fact-conflict"
            >another value too</span
          >
          <button
            v-if="maySort"
            type="button"
            class="ml-auto text-xs underline"
            :title="`Saved by ${sayMember(f.member_id)}, ${sayTime(f.at, zone)}`"
            :aria-label="`Forget ${f.name} ${f.value}`"
            @click="state.deleteFact(f.id)">
            Forget
          </button>
        </p>
        <form v-if="maySort" class="mt-1.5 flex gap-1.5 text-[0.8125rem]" @submit.prevent="saveFact">
          <input
            v-model="factName"
            list="fact-names"
            maxlength="40"
            class="w-32 rounded border border-rule bg-raised px-2 py-1"
            placeholder="Note"
            aria-label="What it is" />
          <datalist id="fact-names"><option v-for="k in KNOWN" :key="k" :value="k" /></datalist>
          <input
            v-model="factValue"
            maxlength="2000"
            class="min-w-0 flex-1 rounded border border-rule bg-raised px-2 py-1"
            placeholder="Something to remember"
            aria-label="Fact"
            data-test="fact-value" />
          <button
            type="submit"
            class="rounded bg-pine px-2.5 font-bold text-on-pine disabled:opacity-50"
            :disabled="!factValue.trim()">
            Save
          </button>
        </form>
      </section>
      <section aria-labelledby="follow-title" class="lg:col-span-2">
        <h2 id="follow-title" class="mb-1 text-xs font-semibold text-ink-2">Follow up</h2>
        <p
          v-for="f in person.follow_ups"
          :key="f.id"
          class="flex items-baseline gap-2 border-b border-dotted border-rule py-1 text-[0.8125rem]"
          :class="f.done_at ? 'text-ink-2' : ''"
          data-test="follow-up">
          <b :class="f.done_at ? 'line-through' : Date.parse(f.due_at) < Date.now() ? 'text-brick' : 'text-honey'">{{
            sayTime(f.due_at, zone)
          }}</b><span class="min-w-0 break-words">{{ f.words }}</span
          ><span class="text-ink-2">{{ f.done_at ? `done by ${sayMember(f.done_by)}` : sayMember(f.member_id) }}</span>
          <button
            v-if="maySort"
            type="button"
            class="ml-auto text-xs underline"
            @click="state.setDone(f.id, !f.done_at)">
            {{ f.done_at ? 'Open again' : 'Done' }}
          </button>
        </p>
        <FollowUpForm
          :zone="zone"
          v-if="maySort"
          :members="members ?? []"
          :me="me"
          @add="(words, due, member) => void state.addFollowUp(words, due, member)" />
      </section>
    </div>

    <section class="mt-5">
      <h2 class="mb-1 flex text-xs font-semibold text-ink-2">
        Every contact
        <span class="ml-auto flex gap-4">
          <a v-if="mayExport" :href="everything" download class="underline">Everything held about them, as a file</a>
          <button
            v-if="mayErase"
            type="button"
            class="text-brick underline"
            data-test="erase"
            @click="isErasing = true">
            Erase all of it …
          </button>
        </span>
      </h2>
      <RouterLink
        v-for="c in person.contacts"
        :key="c.id"
        :to="{ name: 'desk', params: { workspace: String(workspaceId), conversation: String(c.id) } }"
        class="flex items-center gap-3 border-b border-rule-soft py-1.5 hover:bg-fold"
        data-test="contact">
        <NetworkMark
          :letters="byNetwork.get(c.network)?.letters ?? ''"
          :name="byNetwork.get(c.network)?.name ?? ''"
          :is-private="!c.public" />
        <span class="min-w-0 flex-1"
          ><span class="line-clamp-1" dir="auto">{{ c.preview }}</span
          ><span class="text-xs text-ink-2"
            >{{ KINDS[c.kind] }}, {{ c.messages }} {{ c.messages === 1 ? 'message' : 'messages' }}</span
          ></span
        >
        <span class="text-right text-xs whitespace-nowrap text-ink-2"
          >{{ sayTime(c.last_at, zone) }}<br />{{ c.settled_as ? SETTLED[c.settled_as] : MOVE_WORDS[c.move] }}</span
        >
      </RouterLink>
    </section>
    <EraseDialog
      v-if="isErasing"
      :workspace-id="workspaceId"
      :person-id="person.id"
      @close="isErasing = false"
      @erased="emit('erased')" />
    <TagDialog
      v-if="isTagging"
      title="Tag the person"
      :known="offeredTags.map((t) => t.name)"
      :on="person.tags.flatMap((t) => byTag.get(t) ?? [])"
      @close="isTagging = false"
      @tag="tag" />
  </article>
</template>
