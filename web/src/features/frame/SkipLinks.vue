<script setup lang="ts">
/** For whoever goes by Tab: past the band to what one came for. Seen only while one of them has the focus. */
import { computed } from 'vue'
import { useRoute } from 'vue-router'

const route = useRoute()
/** At the desk the list, and what is open in it; everywhere else the page. */
const isAtDesk = computed(() => route.name === 'desk')
const isOpen = computed(() => Boolean(route.params.conversation))
const there = computed<(readonly [string, string])[]>(() => {
  if (!isAtDesk.value) return [['To the page', 'main']]
  const list = ['To the list', '[data-test=queue]'] as const
  if (!isOpen.value) return [list]
  return [list, ['To the conversation', '[data-test=script]'], ['To the answer', '[data-test=composer]']]
})
function skip(where: string): void {
  const target = document.querySelector<HTMLElement>(where)
  if (!target) return
  if (target.tabIndex < 0 && !target.hasAttribute('tabindex')) target.tabIndex = -1
  target.focus()
}
</script>

<template>
  <nav
    class="absolute top-0 left-0 z-50 flex h-0 gap-1 overflow-hidden focus-within:h-11 focus-within:bg-band focus-within:p-1.5"
    aria-label="Skip">
    <button
      v-for="[words, where] in there"
      :key="where"
      type="button"
      class="rounded bg-band-ink px-3 text-[0.8125rem] font-semibold text-band"
      @click="skip(where)">
      {{ words }}
    </button>
  </nav>
</template>
