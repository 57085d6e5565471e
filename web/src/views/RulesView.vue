<script setup lang="ts">
import { computed, onScopeDispose, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import type { RuleBody, RuleVersion, RuleWarning } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import { useDirectory } from '@/composables/useDirectory'
import type { Notice } from '@/composables/useLive'
import { useSoon } from '@/composables/useSoon'
import AppFrame from '@/features/frame/AppFrame.vue'
import ReviewList from '@/features/rules/ReviewList.vue'
import RuleEditor from '@/features/rules/RuleEditor.vue'
import RuleList from '@/features/rules/RuleList.vue'
import RuleSentence from '@/features/rules/RuleSentence.vue'
import TrialPane from '@/features/rules/TrialPane.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useNames } from '@/features/rules/useNames'
import { useRules } from '@/features/rules/useRules'
import { useTrial } from '@/features/rules/useTrial'
import { sayTime } from '@/lib/words'
import { saveFile } from '@/lib/files'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const mayChange = computed(() => session.may('manage_rules'))
const { names } = useNames()
const { byMember } = useDirectory()
const rules = useRules(workspaceId)
const {
  trial,
  problem: trialProblem,
  start,
  cancel,
  onlyDiffering,
  showMore,
  showOnlyDiffering,
} = useTrial(workspaceId)
const list = computed(() => rules.data.value)
const isReview = computed(() => route.name === 'review')
const chosen = ref<number | null>(null)
/** The rule being written: 0 is a new one. */
const editing = ref<number | null>(null)
const draft = ref<RuleBody>({ name: '', when: { type: 'group', of: 'all', parts: [] }, then: [] })
const versions = ref<RuleVersion[] | null>(null)
const removing = ref<number | null>(null)
const done = ref<string | null>(null)
const review = ref<InstanceType<typeof ReviewList> | null>(null)
const picked = computed(() => list.value?.rules.find((r) => r.id === (editing.value ?? chosen.value)))
const places = computed(() => new Map((list.value?.rules ?? []).map((r, n) => [r.id, n + 1])))
const trialTitle = computed(() =>
  trial.value?.rule_id ? `Rule ${places.value.get(trial.value.rule_id) ?? ''}` : 'The new rule',
)
const copyOf = <T,>(value: T): T => JSON.parse(JSON.stringify(value)) as T
const first = (id: number | null): string =>
  (id && byMember.value.get(id)?.name.split(' ')[0]) || (id ? 'Somebody' : 'Sorta')

function choose(id: number): void {
  editing.value = null
  chosen.value = chosen.value === id ? null : id
  const rule = list.value?.rules.find((r) => r.id === id)
  if (chosen.value && rule && mayChange.value) void start(id, rule.body, 14)
  else void cancel()
}
function edit(id: number): void {
  const rule = list.value?.rules.find((r) => r.id === id)
  editing.value = id
  chosen.value = id || null
  draft.value = rule ? copyOf(rule.body) : { name: '', when: { type: 'group', of: 'all', parts: [] }, then: [] }
  rules.problem.value = null
  void cancel()
}
async function save(on: boolean): Promise<void> {
  const id = editing.value
  if (id === null) return
  const saved = await rules.save(id, picked.value?.version ?? 0, draft.value, on)
  if (saved === null) return
  editing.value = null
  chosen.value = saved
}
async function act(what: 'edit' | 'copy' | 'remove' | 'versions', id: number): Promise<void> {
  if (what === 'edit') edit(id)
  else if (what === 'copy') await rules.copy(id)
  else if (what === 'versions') versions.value = await rules.fetchVersions(id)
  else removing.value = id
}
async function remove(): Promise<void> {
  const id = removing.value
  removing.value = editing.value = chosen.value = null
  void cancel()
  if (id !== null) await rules.remove(id)
}
async function download(): Promise<void> {
  const file = new Blob([JSON.stringify(await rules.exportFile(), null, 2)], { type: 'application/json' })
  saveFile(file, 'rules.json')
}
async function upload(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) {
    const made = await rules.importFile(await file.text())
    done.value = made && sayImported(made.count, made.known)
  }
  input.value = ''
}
function sayImported(count: number, known: number): string {
  const rules = (n: number): string => `${n} ${n === 1 ? 'rule' : 'rules'}`
  const left = known ? ` ${rules(known)} of the file ${known === 1 ? 'was' : 'were'} here already.` : ''
  return count
    ? `${rules(count)} ${count === 1 ? 'was' : 'were'} added at the bottom, switched off: look at them, then switch them on.${left}`
    : `Nothing was added.${left}`
}
/** What has just come in may be something that a rule did. */
const lookAtReview = useSoon(() => review.value?.refetch(), 800)
function onNotice(notice: Notice): void {
  if (notice.kind === 'conversations') lookAtReview()
  if (notice.kind === 'rules' || notice.kind === 'everything') {
    void rules.refetch()
    void review.value?.refetch()
  }
}
const warnings = ref<RuleWarning[]>([])
let checking: ReturnType<typeof setTimeout> | undefined
watch([draft, editing], () => {
  clearTimeout(checking)
  warnings.value = []
  const id = editing.value
  if (id !== null && draft.value.name && draft.value.then.length)
    checking = setTimeout(() => void rules.check(id, draft.value).then((found) => (warnings.value = found)), 500)
})
onScopeDispose(() => clearTimeout(checking))
/** An address can name a rule: the margin's evidence leads here. */
watch(
  [() => route.query.rule, list],
  ([rule, all], [before, had]) => {
    const isFresh = before !== rule || !had
    if (rule && all?.rules.some((r) => r.id === Number(rule)) && isFresh && chosen.value !== Number(rule))
      choose(Number(rule))
  },
  { immediate: true },
)
/** Or a conversation that a new rule is made of: what it is and what was done with it, to be looked over. */
watch(
  () => route.query.from,
  async (from) => {
    if (typeof from !== 'string' || !mayChange.value) return
    const body = await rules.makeOf(Number(from))
    void router.replace({ ...route, query: {} })
    if (!body) return
    edit(0)
    draft.value = body
    if (body.then.length) void start(0, body, 14)
  },
  { immediate: true },
)
watch(workspaceId, () => ((chosen.value = editing.value = null), void cancel()))
</script>

<template>
  <AppFrame :doables="mayChange ? [{ words: 'Write a new rule', run: () => edit(0) }] : []" @notice="onNotice">
    <main class="grid min-h-0 flex-1 bg-sheet" :class="isReview ? '' : 'lg:grid-cols-[minmax(0,1fr)_400px]'">
      <div class="min-h-0 scroll-quiet overflow-y-auto px-6 py-4" tabindex="0" role="region" aria-label="Rules">
        <nav class="mb-3 flex gap-4 text-[0.84375rem]" aria-label="Rules and what they did">
          <RouterLink
            :to="{ name: 'rules', params: route.params as { workspace: string } }"
            class="border-b-2 pb-0.5 font-semibold"
            :class="isReview ? 'border-transparent text-ink-2' : 'border-pine text-pine'"
            >Rules</RouterLink
          >
          <RouterLink
            :to="{ name: 'review', params: route.params as { workspace: string } }"
            class="border-b-2 pb-0.5 font-semibold"
            :class="isReview ? 'border-pine text-pine' : 'border-transparent text-ink-2'"
            >To look at{{ list?.to_review ? `, ${list.to_review}` : '' }}</RouterLink
          >
        </nav>
        <template v-if="isReview">
          <h1 class="font-name text-xl font-bold">What rules did by themselves</h1>
          <p class="mb-4 max-w-[62ch] text-[0.84375rem] text-ink-2">
            Hidden, answered or settled since somebody last looked. Leave it as it is, or bring it back.
          </p>
          <ReviewList
            ref="review"
            :workspace-id="workspaceId"
            :zone="zone"
            :may-decide="session.may('sort')"
            @changed="rules.refetch()" />
        </template>
        <template v-else>
          <header class="mb-3 flex flex-wrap items-start gap-3">
            <div class="min-w-64 flex-1">
              <h1 class="font-name text-xl font-bold">Rules</h1>
              <p class="max-w-[62ch] text-[0.84375rem] text-ink-2">
                Read from the top for every message that comes in. The first rule that sets a priority, an owner or an
                answer wins; tags add up. What a member set by hand is never changed.
              </p>
            </div>
            <div class="flex flex-wrap items-center gap-2 text-[0.8125rem]">
              <UiButton kind="main" v-if="mayChange" data-test="new-rule" @click="edit(0)">New rule</UiButton>
              <button
                type="button"
                class="rounded border border-rule bg-raised px-2.5 py-1 font-semibold hover:bg-fold"
                @click="download">
                Export
              </button>
              <label
                v-if="mayChange"
                class="cursor-pointer rounded border border-rule bg-raised px-2.5 py-1 font-semibold focus-within:outline-2 focus-within:outline-pine hover:bg-fold"
                >Import<input
                  type="file"
                  accept="application/json,.json"
                  class="sr-only"
                  data-test="import-rules"
                  @change="upload"
              /></label>
            </div>
          </header>
          <LoadState v-if="!list" :of="rules.ask" />
          <p v-if="rules.problem.value && editing === null" role="alert" class="mb-2 text-brick">
            {{ rules.problem.value }}
          </p>
          <p v-if="done" role="status" class="mb-2 text-pine">{{ done }}</p>
          <RuleEditor
            v-if="editing !== null"
            v-model="draft"
            class="mb-4"
            :names="names"
            :is-new="editing === 0"
            :was-on="picked?.switched_on ?? false"
            :problem="rules.problem.value ?? trialProblem"
            :warnings="warnings"
            :places="places"
            @save="save"
            @cancel="editing = null"
            @try="start(editing ?? 0, draft, 14)" />
          <RuleList
            v-if="list"
            :rules="list"
            :names="names"
            :zone="zone"
            :chosen="chosen"
            :may-change="mayChange"
            :say-member="first"
            @choose="choose"
            @toggle="rules.toggle"
            @answers="rules.letAnswer"
            @order="rules.order"
            @act="act" />
        </template>
      </div>
      <aside
        v-if="!isReview"
        class="min-h-0 scroll-quiet overflow-y-auto border-t border-rule bg-paper px-5 py-4 lg:border-t-0 lg:border-l"
        aria-label="Trial"
        tabindex="0">
        <TrialPane
          v-if="trial"
          :workspace-id="workspaceId"
          :trial="trial"
          :names="names"
          :title="trialTitle"
          :places="places"
          :only-differing="onlyDiffering"
          @cancel="cancel"
          @more="showMore"
          @only="showOnlyDiffering"
          @days="(d) => start(editing ?? chosen ?? 0, editing !== null ? draft : (picked?.body ?? draft), d)" />
        <p v-else-if="trialProblem" role="alert" class="text-brick">{{ trialProblem }}</p>
        <p v-else class="mt-10 text-center text-ink-2">
          {{
            mayChange
              ? 'Choose a rule to try it on the last 14 days. Nothing is changed by trying.'
              : 'Owners and Leads can try and change rules.'
          }}
        </p>
      </aside>
    </main>
    <AppDialog :open="versions !== null" title="Versions of the rule" wide @close="versions = null">
      <ol class="grid max-h-[60vh] gap-3 overflow-y-auto">
        <li
          v-for="(v, n) in versions ?? []"
          :key="v.version"
          class="border-b border-rule-soft pb-2"
          data-test="rule-version">
          <p class="text-xs text-ink-2">
            Version {{ v.version }}, {{ first(v.member_id) }}, {{ sayTime(v.at, zone) }}, switched
            {{ v.switched_on ? 'on' : 'off'
            }}{{ versions?.[n + 1] && versions[n + 1]?.body.name !== v.body.name ? `, called “${v.body.name}”` : '' }}
          </p>
          <RuleSentence :body="v.body" :names="names" :before="versions?.[n + 1]?.body" />
        </li>
      </ol>
    </AppDialog>
    <AppDialog :open="removing !== null" title="Remove the rule?" @close="removing = null">
      <p>It is read no more. What it did so far stays explained.</p>
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="removing = null"> Leave it</UiButton
        ><UiButton kind="danger" data-test="confirm-remove" @click="remove">Remove it</UiButton>
      </div>
    </AppDialog>
  </AppFrame>
</template>
