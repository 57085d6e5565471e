<script setup lang="ts">
import { toRef } from 'vue'
import { RouterLink } from 'vue-router'
import type { Dimension, Move } from '@/api/types'
import { useCross } from './useCross'

const props = defineProps<{ workspaceId: number; rows: Dimension; columns: Dimension; move: Move | null }>()
const { data, error, refetch, rowValues, columnValues, cells, rowSums, columnSums, lead } = useCross(
  toRef(() => props.workspaceId),
  toRef(() => props.rows),
  toRef(() => props.columns),
  toRef(() => props.move),
)
defineExpose({ refetch })
const to = (query: Record<string, string>) => ({
  name: 'desk' as const,
  params: { workspace: String(props.workspaceId) },
  query,
})
/** How dark a cell is: its share of the fullest one. */
const shade = (n: number): string => {
  const most = Math.max(1, ...(data.value?.cells ?? []).map((c) => c.n))
  return `color-mix(in srgb, var(--pine-wash) ${Math.round((n / most) * 100)}%, transparent)`
}
</script>

<template>
  <p v-if="error" role="alert" class="text-brick">{{ error.message }}</p>
  <p v-else-if="data && !data.n" class="rounded-md border border-rule bg-sheet px-4 py-10 text-center text-ink-2">
    Nothing is open here: all of it is settled.
  </p>
  <div
    v-else-if="data"
    class="scroll-quiet overflow-x-auto rounded-md border border-rule bg-sheet"
    tabindex="0"
    role="region"
    aria-label="Cross-tab">
    <table class="w-full text-[0.8125rem]" data-test="cross">
      <thead>
        <tr class="border-b border-rule text-ink-2">
          <th scope="col" class="px-3 py-2 text-left font-semibold"><span class="sr-only">Rows</span></th>
          <th v-for="[value, word] in columnValues" :key="value" scope="col" class="px-2 py-2 text-right font-semibold">
            {{ word }}
          </th>
          <th scope="col" class="px-3 py-2 text-right font-semibold text-ink">All</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="[row, word] in rowValues" :key="row" class="border-b border-rule-soft">
          <th scope="row" class="max-w-64 truncate px-3 py-1 text-left font-semibold">{{ word }}</th>
          <td v-for="[column] in columnValues" :key="column" class="p-0.5 text-right">
            <component
              :is="lead([rows, row], [columns, column]) ? RouterLink : 'span'"
              v-if="cells.get(`${row} ${column}`)"
              :to="to(lead([rows, row], [columns, column]) ?? {})"
              class="block rounded px-2 py-1 font-semibold"
              :class="lead([rows, row], [columns, column]) ? 'hover:underline' : ''"
              :style="{ background: shade(cells.get(`${row} ${column}`)?.n ?? 0) }"
              :data-cell="`${row} ${column}`"
              >{{ cells.get(`${row} ${column}`)?.n
              }}<small
                v-if="cells.get(`${row} ${column}`)?.late"
                class="block text-[0.6875rem] font-semibold text-brick"
                >{{ cells.get(`${row} ${column}`)?.late }} late</small
              ></component
            >
          </td>
          <td class="px-3 py-1 text-right font-name text-[0.9375rem] font-bold">{{ rowSums.get(row)?.n }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr class="font-name text-[0.9375rem] font-bold">
          <th scope="row" class="px-3 py-2 text-left">All</th>
          <td v-for="[column] in columnValues" :key="column" class="px-2.5 py-2 text-right">
            <RouterLink v-if="columns === 'move'" class="hover:underline" :to="to({ move: column })">{{
              columnSums.get(column)?.n
            }}</RouterLink><template v-else>{{ columnSums.get(column)?.n }}</template>
          </td>
          <td class="px-3 py-2 text-right">
            {{ data.n
            }}<small v-if="data.late" class="block font-sans text-[0.6875rem] font-semibold text-brick"
              >{{ data.late }} late</small
            >
          </td>
        </tr>
      </tfoot>
    </table>
  </div>
  <p v-if="data && (rows === 'tag' || columns === 'tag')" class="mt-2 text-[0.8125rem] text-ink-2">
    A conversation with several tags stands in each of their {{ rows === 'tag' ? 'rows' : 'columns' }}; the sums count
    it once.
  </p>
</template>
