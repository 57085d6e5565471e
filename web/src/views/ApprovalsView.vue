<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { WaitingProposal } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import KeyCap from '@/components/ui/KeyCap.vue'
import { useClock } from '@/composables/useClock'
import { useDirectory } from '@/composables/useDirectory'
import { useKeys } from '@/composables/useKeys'
import type { Notice } from '@/composables/useLive'
import ProposalProof from '@/features/approvals/ProposalProof.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import UndoLine from '@/features/desk/UndoLine.vue'
import { useActs } from '@/features/desk/useActs'
import { useApprovals } from '@/features/approvals/useApprovals'
import AppFrame from '@/features/frame/AppFrame.vue'
import { sayDue, sayLength } from '@/lib/words'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const { now } = useClock(15_000)
const { sayMember, byNetwork, byTag, directory } = useDirectory()
const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const me = computed(() => session.session?.member_id ?? 0)
const openId = computed(() =>
  'proposal' in route.params && route.params.proposal ? Number(route.params.proposal) : null,
)
const {
  waiting,
  mine,
  others,
  open,
  sheet,
  listAsk,
  sheetAsk,
  problem,
  movedOn,
  refetch,
  approve,
  sendBack,
  translate,
  inOurs,
} = useApprovals(workspaceId, openId)
/** What was approved goes out after the seconds in which it can be called back. */
const acts = useActs(workspaceId, () => void refetch())
/** The proof on the screen is that of the chosen answer: nothing is decided about another. */
const isSeen = computed(() => sheet.value?.conversation.id === open.value?.conversation_id)
const text = ref('')
const reason = ref('')
const isSendingBack = ref(false)
const isDeciding = ref(false)
const said = ref<string | null>(null)
/** What the approver has seen: the trail as it stood when the proof was shown. */
const seenSeq = ref(0)

const go = (id: number | null): void =>
  void router.replace({
    name: 'approvals',
    params: { workspace: String(workspaceId.value), ...(id === null ? {} : { proposal: String(id) }) },
  })
/** One's own change stays while the list is read anew; only another answer or other words of its author replace it. */
watch([() => open.value?.id, () => open.value?.body], () => (text.value = open.value?.body ?? ''), { immediate: true })
watch(
  [() => open.value?.id, () => sheet.value?.conversation.id],
  () => {
    if (sheet.value && open.value?.conversation_id === sheet.value.conversation.id)
      seenSeq.value = sheet.value.conversation.seq
  },
  { immediate: true },
)
watch([waiting, openId], () => {
  const first = mine.value[0] ?? others.value[0]
  if (waiting.value && !open.value) go(first?.id ?? null)
})
const next = computed(() => {
  const at = mine.value.findIndex((p) => p.id === openId.value)
  return mine.value[at + 1] ?? mine.value.find((p) => p.id !== openId.value) ?? null
})
function read(): void {
  if (sheet.value) seenSeq.value = sheet.value.conversation.seq
  problem.value = ''
  movedOn.value = false
}
async function consent(): Promise<void> {
  const p = open.value
  if (!p?.mine || !isSeen.value || isDeciding.value) return
  isDeciding.value = true
  const after = next.value
  const done = await approve(p.id, seenSeq.value, text.value.trim() === p.body ? null : text.value)
  isDeciding.value = false
  if (!done) return
  if (done.seq !== null)
    acts.remember({ conversation: p.conversation_id, seq: done.seq, words: `The answer to ${p.person_name} goes out` })
  else said.value = 'Approved; it still waits for somebody else'
  go(after?.id ?? null)
}
async function back(): Promise<void> {
  const p = open.value
  if (!p || !reason.value.trim()) return
  const after = next.value
  if (!(await sendBack(p.id, reason.value))) return
  isSendingBack.value = false
  said.value = `Sent back to ${sayMember(p.author_id)}`
  reason.value = ''
  go(after?.id ?? null)
}
function walk(step: number): void {
  const all = [...mine.value, ...others.value]
  const at = all.findIndex((p) => p.id === openId.value)
  const to = all[Math.min(all.length - 1, Math.max(0, at + step))]
  if (to) go(to.id)
}
/** What stands here in a language that the reader does not read, and can be put into theirs. */
const foreign = computed(() =>
  (sheet.value?.messages ?? []).filter((m) => m.inbound && !session.readsLanguage(m.language)),
)
const isAnswerForeign = computed(() => foreign.value.length > 0 && open.value?.written == null && inOurs.value === null)
const mayTranslate = computed(
  () =>
    directory.value?.can_translate === true &&
    (isAnswerForeign.value || foreign.value.some((m) => !m.translations.length)),
)
async function putIntoOurs(): Promise<void> {
  if (!isSeen.value || !mayTranslate.value) return
  const left = foreign.value.filter((m) => !m.translations.length)
  await translate(session.ownLanguage, left, isAnswerForeign.value)
}
const openDesk = (): void => {
  if (open.value)
    void router.push({
      name: 'desk',
      params: { workspace: String(workspaceId.value), conversation: String(open.value.conversation_id) },
    })
}
useKeys({
  ArrowDown: () => walk(1),
  ArrowUp: () => walk(-1),
  'ctrl+Enter': () => void consent(),
  n: () => next.value && go(next.value.id),
  b: () => open.value?.mine && (isSendingBack.value = true),
  o: openDesk,
  q: () => void putIntoOurs(),
  z: () => void acts.undo(),
})
const wait = (p: WaitingProposal): string => `waiting ${sayLength(now.value - Date.parse(p.made_at))}`
function onNotice(notice: Notice): void {
  if (
    notice.kind === 'approvals' ||
    notice.kind === 'everything' ||
    (notice.kind === 'conversations' && notice.ids?.includes(open.value?.conversation_id ?? 0))
  )
    void refetch()
}
</script>

<template>
  <AppFrame
    :doables="
      open?.mine
        ? [
            { words: 'Approve and send', key: 'Ctrl Enter', run: () => void consent() },
            { words: 'Send it back with a reason', key: 'B', run: () => (isSendingBack = true) },
          ]
        : []
    "
    @notice="onNotice">
    <main
      class="min-h-0 flex-1 scroll-quiet overflow-y-auto bg-sheet md:grid md:grid-cols-[330px_minmax(0,1fr)] md:overflow-hidden">
      <section
        class="max-h-[35vh] min-h-0 scroll-quiet overflow-y-auto border-b border-rule bg-paper md:max-h-none md:border-r md:border-b-0"
        aria-label="Waiting"
        tabindex="0"
        data-test="approvals">
        <header class="px-4 py-3">
          <h1 class="font-name text-xl font-bold">Waiting for you</h1>
          <p v-if="waiting" class="text-[0.8125rem] text-ink-2">
            {{ mine.length === 1 ? '1 answer' : `${mine.length} answers` }}, soonest due first.<template
              v-if="others.length">
              {{ others.length }} more {{ others.length === 1 ? 'waits' : 'wait' }} on others.</template
            >
          </p>
        </header>
        <template
          v-for="[title, list] in [
            ['', mine],
            ['On others', others],
          ] as const"
          :key="title">
          <h2 v-if="title && list.length" class="bg-fold px-4 py-1 text-xs font-semibold text-ink-2">{{ title }}</h2>
          <button
            v-for="p in list"
            :key="p.id"
            type="button"
            class="block w-full border-b border-rule-soft bg-sheet px-4 py-2.5 text-left"
            :class="p.id === openId ? 'relative z-10 bg-raised shadow-[inset_0_0_0_2px_var(--pine)]' : ''"
            :aria-current="p.id === openId"
            :data-proposal="p.id"
            @click="go(p.id)">
            <span class="flex justify-between gap-2"
              ><b class="truncate">{{ p.person_name }}</b
              ><span
                class="text-[0.78125rem] font-semibold whitespace-nowrap"
                :class="sayDue(p.due, now).late ? 'text-brick' : ''"
                >{{ sayDue(p.due, now).words }}</span
              ></span
            >
            <span class="block truncate text-[0.84375rem]"
              >{{ sayMember(p.author_id) }} would answer {{ p.public ? 'in public' : 'in private' }} on
              {{ byNetwork.get(p.network)?.name }}</span
            >
            <span class="mt-0.5 flex flex-wrap gap-1.5 text-xs text-ink-2"
              ><span v-for="t in p.tags.slice(0, 2)" :key="t" class="rounded-sm bg-fold px-1.5">{{ byTag.get(t) }}</span
              >{{ wait(p) }}<b v-if="p.overtaken" class="text-honey">they wrote again since</b
              ><template v-if="!p.mine">, on {{ p.waits_on.map(sayMember).join(', ') }}</template></span
            >
          </button>
        </template>
        <p v-if="waiting && !waiting.length" class="px-4 py-8 text-center text-ink-2">
          Nothing waits for approval. Answers that need it come here before they go out.
        </p>
      </section>
      <section v-if="listAsk.problem && !waiting" class="bg-sheet">
        <LoadState :of="listAsk" />
      </section>
      <section
        v-else-if="open && sheet && isSeen"
        class="flex min-h-0 min-w-0 flex-col md:overflow-y-auto lg:overflow-hidden"
        aria-label="Proof">
        <!-- Where the answer stands below what they said, the buttons stand below the answer. -->
        <div
          class="scroll-quiet px-4 py-4 md:px-7 lg:min-h-0 lg:flex-1 lg:overflow-y-auto"
          tabindex="0"
          role="region"
          aria-label="The answer and what it answers">
          <ProposalProof v-model="text" :proposal="open" :sheet="sheet" :zone="zone" :me="me" :in-ours="inOurs" />
        </div>
        <footer class="mx-4 shrink-0 border-t border-rule py-3 md:mx-7">
          <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick" data-test="approval-problem">
            {{ problem }}
            <button v-if="movedOn" type="button" class="font-semibold underline" @click="read">I have read it</button>
          </p>
          <div class="flex flex-wrap items-center gap-2">
            <template v-if="open.mine">
              <button
                type="button"
                class="inline-flex items-center gap-2 rounded-[5px] bg-pine px-3 py-1.5 font-bold text-on-pine"
                data-test="approve"
                @click="consent">
                {{ text.trim() === open.body ? 'Approve and send' : 'Approve with the change' }}
                <KeyCap keys="Ctrl Enter" />
              </button>
              <button
                type="button"
                class="inline-flex items-center gap-2 rounded-[5px] border-[1.5px] border-pine px-3 py-1.5 font-bold text-pine hover:bg-pine-wash"
                data-test="send-back"
                @click="isSendingBack = true">
                Send back with a reason <KeyCap keys="B" />
              </button>
            </template>
            <button
              type="button"
              class="inline-flex items-center gap-2 rounded-[5px] border border-rule px-3 py-1.5 font-bold hover:bg-fold"
              @click="openDesk">
              Open the conversation <KeyCap keys="O" />
            </button>
            <button
              v-if="mayTranslate"
              type="button"
              class="inline-flex items-center gap-2 rounded-[5px] border border-rule px-3 py-1.5 font-bold hover:bg-fold"
              data-test="approvals-translate"
              @click="putIntoOurs">
              Translate <KeyCap keys="Q" />
            </button>
            <button
              v-if="next"
              type="button"
              class="ml-auto inline-flex items-center gap-2 rounded-[5px] px-2 py-1.5 text-[0.8125rem] text-ink-2 hover:bg-fold"
              @click="go(next.id)">
              Next: {{ next.person_name }} <KeyCap keys="N" />
            </button>
          </div>
        </footer>
      </section>
      <section v-else-if="open" aria-label="Proof"><LoadState :of="sheetAsk" /></section>
      <LoadState v-else :of="listAsk">
        <p class="hidden place-items-center text-ink-2 md:grid">{{ said ?? 'Nothing to decide.' }}</p>
      </LoadState>
      <p
        v-if="said"
        role="status"
        class="fixed bottom-4 left-4 z-20 flex items-center gap-3 rounded-md bg-band px-4 py-2 text-[0.8125rem] text-band-ink shadow-lg"
        data-test="approval-said">
        {{ said }}<button type="button" class="underline" @click="said = null">Close</button>
      </p>
    </main>
    <UndoLine :acts="acts" @undo="acts.undo()" />
    <AppDialog :open="isSendingBack" :title="`Back to ${sayMember(open?.author_id)}`" @close="isSendingBack = false">
      <form @submit.prevent="back">
        <label class="text-[0.8125rem]"
          >What should be different<textarea
            v-model="reason"
            required
            maxlength="1000"
            rows="3"
            class="mt-1 block w-full rounded border border-rule bg-raised px-2 py-1"
            data-test="reason" />
        </label>
        <div class="mt-3 flex justify-end gap-2">
          <UiButton @click="isSendingBack = false"> Cancel</UiButton
          ><UiButton kind="main" type="submit">Send back</UiButton>
        </div>
      </form>
    </AppDialog>
  </AppFrame>
</template>
