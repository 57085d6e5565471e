<script setup lang="ts">
/** In the margin: the case this conversation was handed over in, its desk's remarks, and what still waits to reach it. */
import { computed } from 'vue'
import { sayTime } from '@/lib/words'
import CaseState from './CaseState.vue'
import { useCases } from './useCases'

const props = defineProps<{ workspaceId: number; conversation: number; zone: string; maySort: boolean }>()
const { data, problem, tryAgain } = useCases(
  computed(() => props.workspaceId),
  computed(() => ({ conversation: props.conversation })),
)
</script>

<template>
  <section
    v-for="one in data?.cases ?? []"
    :key="one.id"
    class="rounded border border-sky/40 bg-sheet px-2.5 py-2"
    data-test="case-box"
    :aria-label="`Case at ${one.desk_name}`">
    <p class="flex items-baseline gap-2">
      <b>{{ one.desk_name }}</b><a
        v-if="one.url"
        class="text-pine underline"
        :href="one.url"
        target="_blank"
        rel="noreferrer"
        >{{ one.reference }}</a
      ><CaseState class="ml-auto" :state="one.state" />
    </p>
    <p v-if="one.note" class="break-words text-ink-2" dir="auto">{{ one.note }}</p>
    <p v-for="(r, n) in one.remarks" :key="n" class="mt-1 border-l-2 border-sky pl-2" dir="auto">
      <small class="block text-xs font-semibold text-sky">{{ r.by_name }}, {{ sayTime(r.at, zone) }}</small
      ><span class="break-words whitespace-pre-wrap">{{ r.text }}</span>
    </p>
    <p v-if="one.unpassed && one.state !== 'refused'" class="mt-1 text-xs text-ink-2" data-test="case-waits">
      {{ one.unpassed }} of {{ one.messages }} {{ one.messages === 1 ? 'message' : 'messages' }} not passed on
      yet<template v-if="one.problem"
        >. <span class="text-brick">{{ one.problem }}</span></template
      ><template v-if="one.next_at">; next try {{ sayTime(one.next_at, zone) }}</template>
      <button
        v-if="maySort && one.problem && one.next_at"
        type="button"
        class="ml-1 font-semibold underline"
        @click="tryAgain(one.id)">
        Try now
      </button>
    </p>
    <p v-if="problem" role="alert" class="text-brick">{{ problem }}</p>
  </section>
</template>
