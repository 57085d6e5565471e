<script setup lang="ts">
/** A list of the desk on paper: what the filters let through, in its order, as a table. */
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ApiProblem, take } from '@/api/client'
import type { Row } from '@/api/types'
import FailedBox from '@/components/ui/FailedBox.vue'
import { useDirectory } from '@/composables/useDirectory'
import { cursorOf } from '@/features/desk/useQueue'
import { orderOf, readAddress, readMove, readOrder, sayLanguage, TITLES, toApi } from '@/lib/filters'
import { KINDS, MOVE_WORDS, PRIORITIES, sayTime } from '@/lib/words'
import { useSession } from '@/stores/session'

const PAGE = 200
/** More than anybody reads on paper; a table holds all of it. */
const MOST = 1000
const route = useRoute()
const session = useSession()
const { byMember, byNetwork, byTag, byTeam } = useDirectory()
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const { filters } = readAddress(route.query)
const move = readMove(route.query)
const order = readOrder(route.query) ?? orderOf(move)
const rows = ref<Row[]>([])
const isWhole = ref(true)
const isReady = ref(false)
const problem = ref<ApiProblem | null>(null)

async function load(): Promise<void> {
  problem.value = null
  rows.value = []
  try {
    for (;;) {
      const last = rows.value.at(-1)
      const query = { move, ...toApi(filters), order, limit: PAGE, ...(last ? { after: cursorOf(last) } : {}) }
      const path = { workspace_id: session.workspaceId }
      const page = await take(api.GET('/api/workspaces/{workspace_id}/conversations', { params: { path, query } }))
      rows.value.push(...page.rows)
      if (page.rows.length < PAGE) break
      if (rows.value.length >= MOST) {
        isWhole.value = false
        break
      }
    }
    isReady.value = true
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    problem.value = error
  }
}
onMounted(load)
const set = Object.entries(filters)
  .filter(([name]) => name !== 'report')
  .map(([name, values]) => `${TITLES[name] ?? name}: ${(values ?? []).join(', ')}`)
const print = (): void => window.print()
</script>

<template>
  <main class="h-full scroll-quiet overflow-auto bg-sheet p-6 print:p-0">
    <FailedBox
      v-if="problem"
      what="The list"
      :reason="problem.message"
      :reference="problem.reference"
      @retry="load()" />
    <p v-else-if="!isReady" class="text-ink-2" role="status">Gathering the list, {{ rows.length }} so far …</p>
    <template v-else>
      <div class="mb-3 flex items-baseline gap-4">
        <h1 class="font-name text-xl font-bold">
          {{ session.workspace?.name }}: {{ move === 'any' ? 'all moves' : MOVE_WORDS[move] }}
        </h1>
        <button
          type="button"
          class="ml-auto rounded bg-pine px-3 py-1.5 font-bold text-on-pine print:hidden"
          data-test="print"
          @click="print">
          Print
        </button>
      </div>
      <p class="mb-3 text-[0.8125rem] text-ink-2">
        {{ rows.length }} {{ rows.length === 1 ? 'conversation' : 'conversations' }},
        {{ sayTime(new Date().toISOString(), zone) }} (times of {{ zone }})<template v-if="set.length">
          · {{ set.join(' · ') }}</template
        >
        <b v-if="!isWhole" class="text-honey"> · the first {{ rows.length }}; take the list out as a table for all</b>
      </p>
      <table class="w-full border-collapse text-[0.8125rem]">
        <thead>
          <tr class="border-b border-ink text-left">
            <th class="py-1 pr-3" scope="col">Due</th>
            <th class="pr-3" scope="col">Who</th>
            <th class="pr-3" scope="col">Where</th>
            <th class="pr-3" scope="col">What was said last</th>
            <th class="pr-3" scope="col">With</th>
            <th scope="col">Tags</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="row in rows"
            :key="row.id"
            class="break-inside-avoid border-b border-rule align-top"
            data-test="printed">
            <td class="py-1 pr-3 whitespace-nowrap">
              {{ row.due ? sayTime(row.due, zone) : MOVE_WORDS[row.move] }}<br /><span class="text-ink-2">{{
                PRIORITIES[row.priority]
              }}</span>
            </td>
            <td class="py-1 pr-3">{{ row.person_name }}</td>
            <td class="py-1 pr-3">
              {{ byNetwork.get(row.network)?.name }}, {{ KINDS[row.kind]
              }}<template v-if="!row.public && row.kind !== 'private_message'">, private</template>
            </td>
            <td class="py-1 pr-3" dir="auto" :lang="row.language ?? undefined">
              {{ row.preview || 'only an attachment' }}
            </td>
            <td class="py-1 pr-3 whitespace-nowrap">
              {{ byMember.get(row.owner_id ?? 0)?.name ?? byTeam.get(row.team_id ?? 0) ?? 'nobody yet' }}
            </td>
            <td class="py-1">
              {{
                [
                  ...row.tags.map((t) => byTag.get(t) ?? ''),
                  row.language && !session.readsLanguage(row.language) ? sayLanguage(row.language) : '',
                ]
                  .filter(Boolean)
                  .join(', ')
              }}
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="!rows.length" class="py-6 text-ink-2">Nothing passes the filters.</p>
    </template>
  </main>
</template>
