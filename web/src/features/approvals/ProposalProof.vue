<script setup lang="ts">
/** An answer as a proof: what they said beside what we would say, and why it is here. */
import { sayLanguage, sayReads } from '@/lib/filters'
import { computed, ref, watch } from 'vue'
import type { Sheet, WaitingProposal } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { countGraphemes, KINDS, sayTime } from '@/lib/words'
import FileChips from '@/components/ui/FileChips.vue'
import WordDiff from './WordDiff.vue'

const props = defineProps<{
  proposal: WaitingProposal
  sheet: Sheet
  zone: string
  me: number
  inOurs: string | null
}>()
const text = defineModel<string>({ required: true })
const { sayMember, byNetwork, byTag } = useDirectory()
const isEditing = ref(false)
watch(
  () => props.proposal.id,
  () => (isEditing.value = false),
)
const network = computed(() => byNetwork.value.get(props.proposal.network))
const author = computed(() => sayMember(props.proposal.author_id))
const front = computed(
  () => props.sheet.modes.find((m) => m.mode === (props.proposal.public ? 'public' : 'private'))?.front ?? '',
)
const notes = computed(() => props.sheet.trail.filter((e) => e.kind === 'noted'))
const before = computed(() =>
  text.value !== props.proposal.body ? props.proposal.body : (props.proposal.before_edit ?? props.proposal.body),
)
const fewest = (count: number, members: number[]): string =>
  count === 1 && members.length === 1
    ? sayMember(members[0])
    : `${count === 2 ? 'two' : 'one'} of ${members.map(sayMember).join(', ') || 'nobody here now'}`
</script>

<template>
  <div class="grid gap-4">
    <h1 class="font-name text-xl font-bold">An answer to {{ proposal.person_name }}</h1>
    <p
      v-for="n in proposal.needs"
      :key="n.name"
      class="border-l-[3px] border-honey-line bg-honey-wash px-3 py-2 text-honey-ink"
      data-test="proof-need">
      <b>Needs {{ fewest(n.count, n.members) }}:</b> {{ n.name
      }}<template v-if="n.words.length">, because of {{ n.words.map((w) => `“${w}”`).join(', ') }}</template
      >.<template v-if="proposal.reads_as?.length">
        Their last message reads as {{ sayReads(proposal.reads_as) }}.</template
      >
    </p>
    <p
      v-if="proposal.too_few.length"
      class="border-l-[3px] border-brick-line bg-brick-wash px-3 py-2 text-brick"
      data-test="too-few">
      <b>Too few may approve it:</b> {{ proposal.too_few.join(', ') }}. It waits until somebody else may, or its author
      withdraws it.
    </p>
    <p
      v-if="proposal.overtaken"
      class="border-l-[3px] border-plum-line bg-plum-wash px-3 py-2 font-semibold text-plum"
      data-test="overtaken">
      They wrote again after {{ author }} asked. Read on the left whether the answer still fits.
    </p>
    <div class="grid gap-6 lg:grid-cols-2">
      <section>
        <h2 class="border-b border-rule pb-1 text-xs font-semibold text-ink-2">
          They said, {{ proposal.public ? 'public' : 'private' }} {{ KINDS[proposal.kind]?.replace('private ', '')
          }}{{ sheet.post?.title ? ` on “${sheet.post.title}”` : '' }}
        </h2>
        <div
          v-for="m in sheet.messages.filter((x) => x.delivery !== 'withdrawn')"
          :key="m.id"
          class="mt-3 text-[0.9375rem] leading-normal"
          :class="m.inbound ? '' : 'border-l-[3px] border-pine pl-3 text-pine'">
          <p class="break-words whitespace-pre-wrap" dir="auto" :lang="m.language ?? undefined">{{ m.body }}</p>
          <FileChips v-if="m.attachments.length" class="mt-1" :files="m.attachments" />
          <p
            v-for="t in m.translations"
            :key="t.what + t.language"
            class="mt-0.5 border-l-2 border-rule pl-2 text-[0.875rem] break-words text-ink-2"
            dir="auto"
            data-test="proof-translation">
            <span class="text-xs font-semibold">In {{ sayLanguage(t.language) }}{{ t.rough ? ', roughly' : '' }}</span
            ><br />{{ t.body }}
          </p>
          <p class="text-xs text-ink-2">
            {{ m.inbound ? proposal.person_name.split(' ')[0] : m.rule_id ? 'By rule' : sayMember(m.member_id) }},
            {{ sayTime(m.sent_at, zone) }}
          </p>
        </div>
        <div
          v-for="e in notes"
          :key="e.seq"
          class="mt-3 rounded-r border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-2 text-[0.8125rem] text-honey-ink">
          <b class="block text-xs text-honey">{{ sayMember(e.member_id) }}, {{ sayTime(e.at, zone) }}</b
          >{{ e.data.text }}
        </div>
      </section>
      <section>
        <h2 class="border-b border-rule pb-1 text-xs font-semibold text-ink-2">
          {{ author }} would say, {{ proposal.public ? 'in public' : 'in private' }} on {{ network?.name }}, as
          {{ sheet.senders.find((s) => s.id === proposal.answers_from)?.name ?? sheet.account.name }}
        </h2>
        <div
          class="mt-3 rounded-lg border-[1.5px] bg-raised p-3 text-[0.9375rem] leading-normal"
          :class="proposal.public ? 'border-pine' : 'border-dashed border-plum'">
          <span v-if="front" class="font-semibold text-ink-2">{{ front }}</span>
          <textarea
            v-if="isEditing"
            v-model="text"
            rows="5"
            spellcheck="true"
            class="w-full resize-y bg-transparent focus:outline-none"
            aria-label="The answer, changed by you"
            data-test="proof-text" />
          <WordDiff v-else :before="before" :after="text" data-test="proof-diff" />
          <span v-if="proposal.sign_off" class="whitespace-pre-wrap text-ink-2" data-test="proof-sign-off">{{
            proposal.sign_off
          }}</span>
          <FileChips v-if="proposal.attachments.length" class="mt-2" :files="proposal.attachments" />
        </div>
        <p
          v-if="proposal.written"
          class="mt-2 border-l-2 border-rule pl-2 text-[0.875rem] text-ink-2"
          dir="auto"
          data-test="proof-written">
          <span class="text-xs font-semibold"
            >{{ author }} wrote in {{ sayLanguage(proposal.written.language) }}, before it was translated</span
          ><br />{{ proposal.written.text }}
        </p>
        <p
          v-else-if="inOurs"
          class="mt-2 border-l-2 border-rule pl-2 text-[0.875rem] text-ink-2"
          dir="auto"
          data-test="proof-in-ours">
          <span class="text-xs font-semibold">The answer, put into our language roughly by the translator</span><br />{{
            inOurs
          }}
        </p>
        <dl class="mt-3 grid grid-cols-[120px_1fr] gap-y-0.5 text-[0.8125rem]">
          <dt class="text-ink-2">Changed</dt>
          <dd>
            {{
              text !== proposal.body
                ? `by you; ${author} is shown what`
                : proposal.edited_by
                  ? `by ${sayMember(proposal.edited_by)}`
                  : 'not yet'
            }}
            <button
              v-if="proposal.mine"
              type="button"
              class="ml-2 font-semibold text-pine underline"
              data-test="proof-edit"
              @click="isEditing = !isEditing">
              {{ isEditing ? 'Show the change' : 'Change it' }}
            </button>
          </dd>
          <dt class="text-ink-2">Length</dt>
          <dd>
            {{ countGraphemes((front + text.trim() + proposal.sign_off).trim()) }} of
            {{ network?.length_limit.toLocaleString('en') }}
          </dd>
          <dt class="text-ink-2">Afterwards</dt>
          <dd>{{ proposal.settle ? 'settled' : 'their move' }}</dd>
          <dt v-if="proposal.tags.length" class="text-ink-2">Tags</dt>
          <dd v-if="proposal.tags.length">{{ proposal.tags.map((t) => byTag.get(t)).join(', ') }}</dd>
          <dt v-if="proposal.consents.length" class="text-ink-2">Approved by</dt>
          <dd v-if="proposal.consents.length">
            {{ proposal.consents.map((c) => `${sayMember(c.member)} at ${sayTime(c.at, zone)}`).join(', ') }}
          </dd>
          <dt class="text-ink-2">Waiting for</dt>
          <dd>
            {{
              proposal.waits_on
                .map((m) => (proposal.asked.some((a) => a.member === m) ? `${sayMember(m)} (asked)` : sayMember(m)))
                .join(', ')
            }}
          </dd>
        </dl>
      </section>
    </div>
  </div>
</template>
