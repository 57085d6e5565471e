<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import type { Demo } from '@/api/types'
import SignInForm from '@/features/frame/SignInForm.vue'

const route = useRoute()
const router = useRouter()
const demo = ref<Demo | null>(null)
const form = ref<InstanceType<typeof SignInForm> | null>(null)

onMounted(async () => {
  demo.value = await take(api.GET('/api/demo')).catch(() => null)
})
function go(): void {
  const next = typeof route.query.next === 'string' && /^\/(?!\/)/.test(route.query.next) ? route.query.next : '/'
  void router.push(next)
}
</script>

<template>
  <main class="grid h-full place-items-center overflow-y-auto p-6">
    <div class="w-full max-w-3xl">
      <h1 class="mb-6 flex items-center gap-3 font-name text-3xl font-bold tracking-tight">
        <svg width="34" height="30" viewBox="0 0 20 18" aria-hidden="true">
          <rect y="1" width="20" height="4" fill="#d8a72f" />
          <rect y="7" width="13" height="4" fill="currentColor" />
          <rect y="13" width="7" height="4" class="fill-pine" />
        </svg>
        Sorta
      </h1>
      <div class="grid gap-6" :class="demo?.password ? 'md:grid-cols-2' : ''">
        <div class="rounded-lg border border-rule bg-sheet p-5">
          <h2 class="mb-4 font-name text-lg font-bold">Sign in</h2>
          <SignInForm ref="form" autofocus @done="go" />
        </div>
        <section v-if="demo?.password" class="rounded-lg border border-honey-line bg-honey-wash p-5 text-honey-ink">
          <h2 class="font-name text-lg font-bold">The demo's accounts</h2>
          <p class="mt-1 mb-3">
            All with the password <b>{{ demo.password }}</b>. Choose one to fill in the form.
          </p>
          <button
            v-for="a in demo.accounts"
            :key="a.email"
            type="button"
            class="block w-full rounded px-2 py-1 text-left hover:bg-sheet"
            @click="form?.fill(a.email, demo?.password ?? '')">
            <b>{{ a.name }}</b> <span>{{ a.about }}</span>
          </button>
        </section>
      </div>
    </div>
  </main>
</template>
