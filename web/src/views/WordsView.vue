<script setup lang="ts">
/** What the desk's words and signs mean; every place that uses one can lead to its line. */
import { nextTick, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import NetworkMark from '@/components/ui/NetworkMark.vue'
import PriorityNotches from '@/components/ui/PriorityNotches.vue'
import { useDirectory } from '@/composables/useDirectory'
import AppFrame from '@/features/frame/AppFrame.vue'
import { GLOSSARY } from '@/lib/glossary'
import { PRIORITIES } from '@/lib/words'

const route = useRoute()
const { networks } = useDirectory()
const page = ref<HTMLElement | null>(null)
/** The line that was asked for has the focus: what follows is read from there. */
async function show(): Promise<void> {
  await nextTick()
  const line = route.hash
    ? page.value?.querySelector<HTMLElement>(`[data-word="${CSS.escape(route.hash.slice(1))}"]`)
    : null
  line?.scrollIntoView({ block: 'center' })
  line?.focus({ preventScroll: true })
}
onMounted(show)
watch(() => route.hash, show)
</script>

<template>
  <AppFrame>
    <main ref="page" class="min-h-0 flex-1 scroll-quiet overflow-y-auto p-6">
      <div class="mx-auto max-w-3xl">
        <h1 class="mb-1 font-name text-2xl font-bold">What the words mean</h1>
        <p class="mb-5 text-ink-2">
          The words and signs of the desk. Wherever one has a small question mark, it leads here.
        </p>
        <section v-for="group in GLOSSARY" :key="group.title" class="mb-6">
          <h2 class="mb-1 font-name text-lg font-bold">{{ group.title }}</h2>
          <dl class="rounded-md border border-rule bg-sheet px-4">
            <div
              v-for="w in group.words"
              :key="w.id"
              :data-word="w.id"
              tabindex="-1"
              class="border-b border-rule-soft py-2.5 last:border-0 sm:grid sm:grid-cols-[9rem_minmax(0,1fr)] sm:gap-4"
              :class="route.hash === `#${w.id}` ? '-mx-4 bg-pine-wash px-4' : ''">
              <dt class="font-semibold">{{ w.word }}</dt>
              <dd>
                {{ w.says }}
                <span v-if="w.id === 'notches'" class="mt-2 flex flex-wrap gap-5 text-[0.8125rem]"
                  ><span v-for="(word, n) in PRIORITIES" :key="n" class="flex items-center gap-2"
                    ><PriorityNotches aria-hidden="true" :priority="n" :word="word" />{{ word }}</span
                  ></span
                >
                <span v-if="w.id === 'letters'" class="mt-2 flex flex-wrap gap-x-5 gap-y-2 text-[0.8125rem]"
                  ><span v-for="n in networks ?? []" :key="n.network" class="flex items-center gap-2"
                    ><NetworkMark aria-hidden="true" :letters="n.letters" :name="n.name" />{{ n.name }}</span
                  ></span
                >
              </dd>
            </div>
          </dl>
        </section>
        <p class="text-[0.8125rem] text-ink-2">
          These pages are built with the work of others:
          <a class="text-pine underline" href="/licences.txt">licences of their programs</a> and
          <a class="text-pine underline" href="/licences-of-typefaces.txt">of their typefaces</a>.
        </p>
      </div>
    </main>
  </AppFrame>
</template>
