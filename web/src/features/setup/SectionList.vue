<script setup lang="ts">
/** What Setup holds, each a jump away; the one on screen is marked. The address says which was chosen. */
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

const props = defineProps<{ sections: readonly (readonly [string, string])[]; within: HTMLElement | null }>()
const route = useRoute()
const current = ref('')
/** What loads above the chosen section pushes it away: it is held in place until its reader scrolls. */
let held = ''
const resizes = new ResizeObserver(() => jump())

function jump(): void {
  if (held) document.getElementById(held)?.scrollIntoView({ block: 'start' })
}
function look(): void {
  const top = (props.within?.getBoundingClientRect().top ?? 0) + 60
  const passed = props.sections.filter(
    ([id]) => (document.getElementById(id)?.getBoundingClientRect().top ?? Infinity) <= top,
  )
  current.value = passed.at(-1)?.[0] ?? props.sections[0]?.[0] ?? ''
}
const release = (): void => {
  held = ''
}
watch(
  () => route.hash,
  (hash) => {
    held = hash.slice(1)
    jump()
  },
)
onMounted(() => {
  held = route.hash.slice(1)
  const box = props.within
  box?.addEventListener('scroll', look, { passive: true })
  for (const event of ['wheel', 'touchmove', 'keydown', 'pointerdown'])
    box?.addEventListener(event, release, { passive: true })
  if (box?.firstElementChild) resizes.observe(box.firstElementChild)
  jump()
  look()
})
onBeforeUnmount(() => resizes.disconnect())
</script>

<template>
  <nav aria-label="Sections of Setup" class="text-[0.84375rem]" data-test="sections">
    <RouterLink
      v-for="[id, words] in sections"
      :key="id"
      :to="{ hash: `#${id}` }"
      replace
      class="block border-l-2 py-1 pl-3 hover:bg-fold"
      :class="current === id ? 'border-pine font-semibold text-pine' : 'border-rule text-ink-2'"
      :aria-current="current === id ? 'true' : undefined"
      >{{ words }}</RouterLink
    >
  </nav>
</template>
