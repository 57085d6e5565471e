<script setup lang="ts">
/** A report's figures by the values of one thing; each row narrows the report to itself. */
import { computed, ref } from 'vue'
import type { Report } from '@/api/types'
import PickMenu from '@/components/ui/PickMenu.vue'
import { sayFigure, sayNumber } from '@/lib/reports'

type By = Report['breakdowns'][number]['by']
const props = defineProps<{ breakdowns: Report['breakdowns']; sayKey: (by: string, key: string) => string }>()
const emit = defineEmits<{ narrow: [by: By, key: string] }>()
const WORDS: Record<By, string> = {
  account: 'account',
  network: 'network',
  member: 'member',
  team: 'team',
  kind: 'kind',
  priority: 'priority',
  sentiment: 'sentiment',
  tag: 'tag',
}
const NARROWS: readonly By[] = ['account', 'member', 'team', 'kind', 'priority', 'tag']
const by = ref<By>('account')
const rows = computed(() => props.breakdowns.find((b) => b.by === by.value)?.rows ?? [])
const choices = Object.entries(WORDS).map(([value, text]) => ({ value: value as By, text }))
const few = (of: { too_few: boolean }, words: string): string => (of.too_few ? 'too few' : words)
</script>

<template>
  <section>
    <h2 class="mb-1 flex items-center gap-1.5 font-name text-[0.9375rem] font-bold">
      By
      <PickMenu label="Broken down by" :choices="choices" @pick="(one: By) => (by = one)"
        >{{ WORDS[by] }} <span aria-hidden="true" class="text-ink-2">▾</span></PickMenu
      >
    </h2>
    <div class="scroll-quiet overflow-x-auto" tabindex="0" role="region" :aria-label="`By ${WORDS[by]}`">
      <table class="w-full text-[0.8125rem]" data-test="breakdown">
        <thead>
          <tr class="border-b border-rule text-xs text-ink-2">
            <th scope="col" class="py-1 text-left font-semibold">{{ WORDS[by] }}</th>
            <th scope="col" class="py-1 text-right font-semibold">Came in</th>
            <th scope="col" class="py-1 text-right font-semibold">Answers</th>
            <th scope="col" class="py-1 text-right font-semibold">Settled without a reply</th>
            <th scope="col" class="py-1 text-right font-semibold">First answer, half within</th>
            <th scope="col" class="py-1 text-right font-semibold">9 of 10 within</th>
            <th scope="col" class="py-1 text-right font-semibold">Within target</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.key" class="border-b border-rule-soft">
            <th scope="row" class="py-1 text-left font-semibold">
              <button
                v-if="NARROWS.includes(by) && (row.key !== '0' || by === 'priority')"
                type="button"
                class="text-left hover:underline"
                @click="emit('narrow', by, row.key)">
                {{ sayKey(by, row.key) }}</button><template v-else>{{ sayKey(by, row.key) }}</template>
            </th>
            <td class="py-1 text-right">{{ sayNumber(row.came_in) }}</td>
            <td class="py-1 text-right">{{ sayNumber(row.answers) }}</td>
            <td class="py-1 text-right">{{ sayNumber(row.without_reply) }}</td>
            <td class="py-1 text-right">{{ few(row.first_half, sayFigure('seconds', row.first_half.value)) }}</td>
            <td class="py-1 text-right">{{ few(row.first_nine, sayFigure('seconds', row.first_nine.value)) }}</td>
            <td class="py-1 text-right">{{ few(row.kept, sayFigure('share', row.kept.value)) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="by === 'tag'" class="mt-1 text-xs text-ink-2">A conversation with two tags counts under both.</p>
  </section>
</template>
