<script setup lang="ts">
/** On a first visit: the five things to know, with the numbers that stand beside them on the page. It stops nobody. */
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { useAttempt } from '@/composables/useAttempt'
import { POINTS, useTour } from '@/composables/useTour'
import { useSession } from '@/stores/session'
import UiButton from '@/components/ui/UiButton.vue'

const session = useSession()
const { end } = useTour()
const { problem, attempt } = useAttempt()
const isEnding = ref(false)
async function understood(): Promise<void> {
  isEnding.value = true
  await attempt(end)
  isEnding.value = false
}
</script>

<template>
  <section
    class="max-w-md rounded-lg border border-rule bg-raised p-5 text-left text-ink"
    aria-labelledby="first-visit"
    data-test="first-visit">
    <h2 id="first-visit" class="font-name text-lg font-bold">Five things, and you can begin</h2>
    <ol class="mt-3 grid gap-2.5">
      <li v-for="(words, n) in POINTS" :key="n" class="flex gap-2.5">
        <span
          class="mt-0.5 grid size-5 shrink-0 place-items-center rounded-full bg-[#f0c75a] text-xs font-bold text-[#22251f]"
          aria-hidden="true"
          >{{ n + 1 }}</span>{{ words }}
      </li>
    </ol>
    <p class="mt-3 text-[0.8125rem] text-ink-2">
      What a word or sign means stands under
      <RouterLink class="underline" :to="{ name: 'words', params: { workspace: String(session.workspaceId) } }"
        >Words</RouterLink
      >, and behind each small question mark.
    </p>
    <p v-if="problem" role="alert" class="mt-2 text-[0.8125rem] text-brick">{{ problem }}</p>
    <UiButton kind="main" class="mt-3" :disabled="isEnding" data-test="understood" @click="understood">
      I have seen them
    </UiButton>
  </section>
</template>
