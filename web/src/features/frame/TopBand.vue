<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import KeyCap from '@/components/ui/KeyCap.vue'
import PickMenu from '@/components/ui/PickMenu.vue'
import { useSession } from '@/stores/session'

defineProps<{ connected: boolean }>()
defineEmits<{ find: [] }>()
const session = useSession()
const router = useRouter()
const places = computed(() => {
  const params = { workspace: String(session.workspaceId) }
  return [
    { to: { name: 'desk', params }, word: 'Desk' },
    { to: { name: 'setup', params }, word: 'Setup' },
  ] as const
})
const workspaces = computed(() => (session.session?.workspaces ?? []).map((w) => ({ value: w.id, text: w.name, hint: w.role })))

async function signOut(): Promise<void> {
  await session.signOut()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <header class="flex h-11 shrink-0 items-center gap-1 bg-band px-2 text-band-ink sm:gap-4 sm:px-4">
    <span class="flex items-center gap-2 font-name text-[17px] font-bold tracking-tight">
      <svg width="20" height="18" viewBox="0 0 20 18" aria-hidden="true"><rect y="1" width="20" height="4" fill="#f0c75a" /><rect y="7" width="13" height="4" fill="#f4f1ea" /><rect y="13" width="7" height="4" fill="#8fb5a8" /></svg>
      <span class="hidden sm:inline">Sorta</span>
    </span>
    <div class="max-w-36 border-ink-2 sm:max-w-none sm:border-l sm:pl-3 text-band-ink-2 [&_[role=menu]]:text-ink [&>div>button]:hover:bg-ink-2">
      <PickMenu label="Workspace" plain :choices="workspaces" @pick="(id) => router.push({ name: 'desk', params: { workspace: String(id) } })">
        <span class="truncate">{{ session.workspace?.name }}</span> <span aria-hidden="true">▾</span>
      </PickMenu>
    </div>
    <nav class="flex gap-0.5" aria-label="Places">
      <RouterLink v-for="p in places" :key="p.word" :to="p.to" class="rounded-[5px] px-2 py-1 text-[13.5px] sm:px-3 text-band-ink-2 hover:text-band-ink" active-class="!bg-band-ink !text-band font-semibold">{{ p.word }}</RouterLink>
    </nav>
    <span v-if="!connected" role="status" class="rounded bg-honey-wash px-2 py-0.5 text-xs font-semibold text-honey">Connection lost, trying again</span>
    <button type="button" class="ml-auto flex items-center justify-between rounded-[5px] border border-ink-2 px-2.5 py-1 text-[13px] whitespace-nowrap text-band-ink-2 hover:border-band-ink-2 lg:w-52" @click="$emit('find')">
      <span>Find<span class="hidden sm:inline"> or do …</span></span> <KeyCap class="ml-2" keys="Ctrl K" />
    </button>
    <div class="text-band-ink-2 [&_[role=menu]]:text-ink">
      <PickMenu label="Me" plain align="right" :choices="[{ value: 'out', text: 'Sign out', hint: session.session?.name ?? '' }]" @pick="signOut">
        <span class="grid size-[26px] place-items-center rounded-full bg-[#d8b24a] text-[11px] font-bold text-[#22251f]">{{ session.session?.initials }}</span>
        <span class="sr-only">{{ session.session?.name }}</span>
      </PickMenu>
    </div>
  </header>
</template>
