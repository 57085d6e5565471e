<script setup lang="ts">
/** One draw: who takes part and who is left out, then who has won, the certificate, and writing to the winners. */
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { DrawInFull, Notified } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { sayList } from '@/lib/rules'
import { sayTime } from '@/lib/words'
import UiButton from '@/components/ui/UiButton.vue'

const props = defineProps<{
  draw: DrawInFull
  workspaceId: number
  zone: string
  now: number
  mayDraw: boolean
  problem: string | null
  notify: (saved: number, places: number[]) => Promise<Notified[] | null>
}>()
const emit = defineEmits<{ draw: [publicValue: string]; cancel: [] }>()
const publicValue = ref('')
const { byNetwork, byTag, directory, sayMember } = useDirectory()
const isOver = computed(() => Date.parse(props.draw.deadline) <= props.now)
const sentence = computed(() => {
  const r = props.draw.rules
  const parts = [
    r.words?.length && `with ${sayList(r.words, 'or')}`,
    r.staff?.length &&
      `not from people tagged ${sayList(
        r.staff.map((t) => byTag.value.get(t) ?? '…'),
        'or',
      )}`,
    r.first_only !== false && 'no replies to others',
  ].filter(Boolean)
  return `${r.winners} of those who spoke until ${sayTime(props.draw.deadline, props.zone)}${parts.length ? `, ${parts.join(', ')}` : ''}; ${r.reserves ? `with ${r.reserves} in reserve` : 'with no reserves'}.`
})
/** Reasons with how many each left out. */
const reasons = computed(() => {
  const counts = new Map<string, number>()
  for (const x of props.draw.excluded) {
    const reason = x.reason.startsWith('entered already') ? 'entered already' : x.reason
    counts.set(reason, (counts.get(reason) ?? 0) + 1)
  }
  return [...counts].sort((a, b) => b[1] - a[1])
})
const saved = ref<number | null>(null)
const report = ref<Notified[]>([])
const waiting = computed(() => props.draw.places.filter((p) => !p.is_reserve && !p.notice).map((p) => p.place))
async function write(places: number[]): Promise<void> {
  if (saved.value !== null) report.value = (await props.notify(saved.value, places)) ?? []
}
const said = (place: number): string | null => report.value.find((r) => r.place === place)?.reason ?? null
const certificate = computed(() => `/api/workspaces/${props.workspaceId}/draws/${props.draw.id}/certificate`)
</script>

<template>
  <article class="p-4 text-[0.84375rem] md:p-6" data-test="draw">
    <h2 class="font-name text-xl font-bold">{{ draw.rules.name }}</h2>
    <p class="text-[0.8125rem] text-ink-2">
      Under “{{ draw.title }}” on {{ byNetwork.get(draw.network)?.name }}, announced by {{ sayMember(draw.made_by) }}
      {{ sayTime(draw.announced_at, zone) }}
    </p>
    <p class="mt-2">{{ sentence }}</p>
    <dl class="mt-2 max-w-2xl rounded-md border border-rule bg-paper px-3 py-2 text-xs">
      <div class="flex gap-3">
        <dt class="w-36 shrink-0 font-semibold">Fingerprint of the seed</dt>
        <dd class="font-mono break-all select-all" data-test="commitment">{{ draw.commitment }}</dd>
      </div>
      <div v-if="draw.entries_sha256" class="mt-1 flex gap-3">
        <dt class="w-36 shrink-0 font-semibold">Fingerprint of the list</dt>
        <dd class="font-mono break-all select-all" data-test="list-digest">{{ draw.entries_sha256 }}</dd>
      </div>
      <div v-if="draw.rules.public_source" class="mt-1 flex gap-3">
        <dt class="w-36 shrink-0 font-semibold">Public value</dt>
        <dd>
          {{ draw.rules.public_source
          }}<template v-if="draw.public_value"
            >: <b>{{ draw.public_value }}</b></template
          >
        </dd>
      </div>
      <div v-if="draw.seed" class="mt-1 flex gap-3">
        <dt class="w-36 shrink-0 font-semibold">The seed</dt>
        <dd class="font-mono break-all select-all">{{ draw.seed }}</dd>
      </div>
    </dl>
    <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
    <p v-if="draw.cancelled_at" class="mt-3 font-semibold">
      Cancelled {{ sayTime(draw.cancelled_at, zone) }}: it will not be drawn.
    </p>
    <div v-else-if="!draw.drawn_at" class="mt-3 flex flex-wrap items-center gap-3">
      <template v-if="mayDraw"
        ><label v-if="isOver && draw.rules.public_source" class="text-[0.8125rem]"
          >What was named above
          <input
            v-model="publicValue"
            class="w-56 rounded border border-rule bg-raised px-1.5 py-0.5"
            maxlength="200"
            data-test="public-value" /></label
        ><UiButton
          kind="main"
          :disabled="!isOver || !draw.entries.length || (!!draw.rules.public_source && !publicValue.trim())"
          data-test="draw-now"
          @click="emit('draw', publicValue)">
          Draw</UiButton
        ><UiButton data-test="cancel-draw" @click="emit('cancel')">Cancel the draw</UiButton></template
      >
      <span class="text-[0.8125rem] text-ink-2">{{
        draw.closed_at
          ? `The list was closed ${sayTime(draw.closed_at, zone)}: whatever is said or hidden now changes it no more.`
          : isOver
            ? 'The deadline has passed; the list is being closed.'
            : `People can enter until ${sayTime(draw.deadline, zone)}.`
      }}</span>
    </div>
    <template v-else>
      <div class="mt-4 mb-1 flex flex-wrap items-baseline gap-3">
        <h3 class="font-name text-lg font-bold">
          Drawn {{ sayTime(draw.drawn_at, zone) }} by {{ sayMember(draw.drawn_by) }}
        </h3>
        <a class="font-semibold text-pine underline" :href="certificate" download data-test="certificate"
          >Certificate</a
        >
      </div>
      <ol class="rounded-md border border-rule bg-sheet" data-test="places">
        <li
          v-for="p in draw.places"
          :key="p.place"
          class="flex items-baseline gap-3 border-b border-rule-soft px-4 py-2 last:border-0">
          <b class="w-20 shrink-0" :class="p.is_reserve ? 'text-ink-2' : 'text-pine'">{{
            p.is_reserve ? `Reserve ${p.place - (draw.rules.winners ?? 1)}` : `Winner ${p.place}`
          }}</b>
          <RouterLink
            v-if="p.conversation_id"
            class="font-bold hover:underline"
            :to="{ name: 'desk', params: { workspace: String(workspaceId), conversation: String(p.conversation_id) } }"
            >{{ p.name }}</RouterLink><b v-else>{{ p.name }}</b>
          <span class="text-ink-2">@{{ p.handle.replace(/^@/, '') }}, entry {{ p.number }}</span>
          <span class="ml-auto text-[0.8125rem]"
            ><template v-if="p.notice"
              >{{ p.notice.outcome === 'sent' ? 'Written to' : 'Waits for approval, asked' }} by
              {{ sayMember(p.notice.member_id) }} {{ sayTime(p.notice.at, zone) }}</template
            ><span v-else-if="said(p.place)" class="text-brick">{{ said(p.place) }}</span
            ><button
              v-else-if="mayDraw && p.is_reserve && saved !== null"
              type="button"
              class="underline"
              @click="write([p.place])">
              Write to them
            </button></span
          >
        </li>
      </ol>
      <form
        v-if="mayDraw"
        class="mt-2 flex flex-wrap items-center gap-2 text-[0.8125rem]"
        @submit.prevent="write(waiting)">
        <label
          >Write to the winners with
          <select
            v-model="saved"
            required
            class="rounded border border-rule bg-raised px-1.5 py-0.5"
            data-test="winner-reply">
            <option :value="null" disabled>a saved reply …</option>
            <option
              v-for="r in (directory?.saved_replies ?? []).filter((one) => !one.archived)"
              :key="r.id"
              :value="r.id">
              {{ r.name }}
            </option>
          </select></label
        >
        <button
          type="submit"
          class="rounded bg-pine px-3 py-1 font-bold text-on-pine disabled:opacity-50"
          :disabled="saved === null || !waiting.length"
          data-test="write-winners">
          Write to {{ waiting.length }}
        </button>
        <span class="text-xs text-ink-2">In public, under what they said.</span>
      </form>
    </template>
    <div class="mt-5 grid gap-5 lg:grid-cols-2">
      <section>
        <h3 class="mb-1 font-name text-base font-bold">
          {{ draw.drawn_at ? 'Took part' : draw.closed_at ? 'Take part' : 'Take part by now' }}
          <span class="text-ink-2">{{ draw.entries.length }}</span>
        </h3>
        <ol
          class="max-h-72 scroll-quiet overflow-y-auto rounded-md border border-rule bg-sheet text-[0.8125rem]"
          tabindex="0"
          aria-label="Entries"
          data-test="entries">
          <li
            v-for="e in draw.entries"
            :key="e.number"
            class="flex gap-3 border-b border-rule-soft px-3 py-0.5 last:border-0">
            <span class="w-8 text-right text-ink-2 tabular-nums">{{ e.number }}</span><span class="truncate">{{
              e.name
            }}</span
            ><span class="ml-auto text-xs whitespace-nowrap text-ink-2">{{ sayTime(e.at, zone) }}</span>
          </li>
        </ol>
      </section>
      <section>
        <h3 class="mb-1 font-name text-base font-bold">
          Left out <span class="text-ink-2">{{ draw.excluded.length }}</span>
        </h3>
        <p v-if="reasons.length" class="mb-1 text-xs text-ink-2">
          {{ reasons.map(([reason, n]) => `${n} ${reason}`).join(', ') }}
        </p>
        <ol
          class="max-h-64 scroll-quiet overflow-y-auto rounded-md border border-rule bg-sheet text-[0.8125rem]"
          tabindex="0"
          aria-label="Left out"
          data-test="excluded">
          <li
            v-for="(x, n) in draw.excluded"
            :key="n"
            class="flex gap-3 border-b border-rule-soft px-3 py-0.5 last:border-0">
            <span class="truncate">{{ x.name }}</span><span class="ml-auto text-xs whitespace-nowrap text-ink-2">{{
              x.reason
            }}</span>
          </li>
        </ol>
      </section>
    </div>
  </article>
</template>
