<script setup lang="ts">
/** Where the approval of an answer stands, in the margin. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { CameBack, Proposal } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { sayTime } from '@/lib/words'
import FileChips from '@/components/ui/FileChips.vue'

const props = defineProps<{ workspaceId: number; proposal: Proposal; zone: string; me: number }>()
const emit = defineEmits<{ again: [back: CameBack] }>()
const { sayMember } = useDirectory()
const { problem, attempt } = useAttempt()
/** Who was asked and has not answered, and when it is the next one's turn, if there is one. */
const asked = computed(() => props.proposal.asked.filter((a) => props.proposal.waits_on.includes(a.member)))
const next = computed(() =>
  props.proposal.waits_on.some((m) => !props.proposal.asked.some((a) => a.member === m))
    ? asked.value.at(-1)?.until
    : undefined,
)
const withdraw = (): Promise<boolean> =>
  attempt(async () => {
    const back = await take(
      api.POST('/api/workspaces/{workspace_id}/proposals/{proposal_id}/withdraw', {
        params: { path: { workspace_id: props.workspaceId, proposal_id: props.proposal.id } },
      }),
    )
    emit('again', { text: back.text ?? '', attachments: back.attachments })
  })
</script>

<template>
  <section data-test="proposal">
    <h2 class="mb-1 text-xs font-semibold text-ink-2">Approval</h2>
    <div class="rounded-r border-l-[3px] border-honey-line bg-honey-wash px-2.5 py-2 text-honey-ink">
      <template v-if="proposal.state === 'waiting'">
        <p class="text-xs font-semibold text-honey">
          {{ sayMember(proposal.author_id) }} asked at {{ sayTime(proposal.made_at, zone) }}; waits on
          {{ proposal.waits_on.map(sayMember).join(', ') }}
        </p>
        <p class="mt-0.5 break-words whitespace-pre-wrap" dir="auto">{{ proposal.body }}</p>
        <FileChips v-if="proposal.attachments.length" class="mt-1" :files="proposal.attachments" />
        <p v-for="n in proposal.needs" :key="n.name" class="mt-0.5 text-xs">
          {{ n.name }}: {{ n.count === 2 ? 'two of' : 'one of' }} {{ n.members.map(sayMember).join(', ')
          }}<template v-if="n.words.length">, because of {{ n.words.map((w) => `“${w}”`).join(', ') }}</template>
        </p>
        <p v-if="asked.length" class="mt-0.5 text-xs" data-test="asked">
          Asked: {{ asked.map((a) => `${sayMember(a.member)} ${sayTime(a.at, zone)}`).join(', ')
          }}<template v-if="next">; the next at {{ sayTime(next, zone) }}</template>
        </p>
        <p v-if="proposal.overtaken" class="mt-0.5 text-xs font-semibold">They wrote again since.</p>
        <p class="mt-1 flex gap-3 text-xs font-semibold">
          <RouterLink
            class="underline"
            :to="{ name: 'approvals', params: { workspace: String(workspaceId), proposal: String(proposal.id) } }"
            >{{ proposal.mine ? 'Decide' : 'See it' }}</RouterLink><button
            v-if="proposal.author_id === me"
            type="button"
            class="underline"
            data-test="withdraw"
            @click="withdraw">
            Withdraw
          </button>
        </p>
      </template>
      <template v-else>
        <p class="text-xs font-semibold text-honey">
          {{ sayMember(proposal.decided_by) }} sent it back to {{ sayMember(proposal.author_id) }}
        </p>
        <p class="mt-0.5 break-words" dir="auto">{{ proposal.reason }}</p>
        <button
          v-if="proposal.author_id === me"
          type="button"
          class="mt-1 text-xs font-semibold underline"
          data-test="write-on"
          @click="emit('again', { text: proposal.body, attachments: proposal.attachments })">
          Write it on
        </button>
      </template>
      <p v-if="problem" role="alert" class="text-brick">{{ problem }}</p>
    </div>
  </section>
</template>
