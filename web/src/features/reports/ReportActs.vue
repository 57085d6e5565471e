<script setup lang="ts">
/** What one does with a report: keep it under a name, open one that was kept, take it out of the house, print it. */
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import NameDialog from '@/components/ui/NameDialog.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import { writeQuery, type ReportAddress } from '@/lib/reports'
import { useSession } from '@/stores/session'
import ShareDialog from './ShareDialog.vue'
import { useKept } from './useKept'

const props = defineProps<{ address: ReportAddress }>()
const session = useSession()
const router = useRouter()
const isNaming = ref(false)
const isSharing = ref(false)
const { kept, problem, said, keep, forget } = useKept()
const choices = computed(() => [
  ...(kept.value ?? []).map((k) => ({
    value: `open ${k.id}`,
    text: k.name,
    hint: k.mine ? (k.shared ? 'shared' : '') : 'shared by a colleague',
  })),
  ...(kept.value ?? []).filter((k) => k.mine).map((k) => ({ value: `forget ${k.id}`, text: `Forget ${k.name}` })),
])
function pick(what: string): void {
  const [act, id] = what.split(' ')
  const one = kept.value?.find((k) => k.id === Number(id))
  if (!one) return
  if (act === 'forget') void forget(one)
  else
    void router.push({
      query: Object.fromEntries(
        [...new URLSearchParams(one.query).keys()].map((k) => [k, new URLSearchParams(one.query).getAll(k)]),
      ),
    })
}
const OUT = [
  { value: 'xlsx', text: 'Workbook (XLSX)' },
  { value: 'csv', text: 'Tables (CSV)' },
  { value: 'print', text: 'Print, or save as PDF' },
] as const
function take(how: (typeof OUT)[number]['value']): void {
  if (how === 'print') window.print()
  else window.location.assign(`/api/workspaces/${session.workspaceId}/report.${how}?${writeQuery(props.address)}`)
}
const out = computed(() => OUT.filter((one) => one.value === 'print' || session.may('export')))
function submit(name: string, shared: boolean): void {
  isNaming.value = false
  void keep(name, shared, writeQuery(props.address))
}
</script>

<template>
  <div class="flex flex-wrap items-center gap-2 print:hidden">
    <p v-if="problem" role="alert" class="text-[0.8125rem] text-brick">{{ problem }}</p>
    <p v-else role="status" class="text-[0.8125rem] text-ink-2">{{ said }}</p>
    <button
      type="button"
      class="rounded border border-rule bg-raised px-2.5 py-[3px] text-[0.8125rem] font-semibold hover:bg-fold"
      data-test="keep-report"
      @click="isNaming = true">
      Keep this report
    </button>
    <PickMenu v-if="choices.length" label="Kept reports" align="right" :choices="choices" @pick="pick"
      >Kept <span aria-hidden="true" class="text-ink-2">▾</span></PickMenu
    >
    <button
      v-if="session.may('export')"
      type="button"
      class="rounded border border-rule bg-raised px-2.5 py-[3px] text-[0.8125rem] font-semibold hover:bg-fold"
      data-test="share-report"
      @click="isSharing = true">
      Share
    </button>
    <PickMenu label="Export" align="right" :choices="[...out]" @pick="take"
      >Export <span aria-hidden="true" class="text-ink-2">▾</span></PickMenu
    >
    <ShareDialog v-if="isSharing" :query="writeQuery(address)" @close="isSharing = false" />
    <NameDialog
      v-if="isNaming"
      title="Keep this report"
      label="Its name"
      button="Keep"
      share
      @close="isNaming = false"
      @name="submit" />
  </div>
</template>
