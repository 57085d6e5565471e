<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ApiProblem, take } from '@/api/client'
import type { Demo } from '@/api/types'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const email = ref('')
const password = ref('')
const problem = ref<string | null>(null)
const isBusy = ref(false)
const demo = ref<Demo | null>(null)

onMounted(async () => {
  demo.value = await take(api.GET('/api/demo')).catch(() => null)
})

async function signIn(): Promise<void> {
  isBusy.value = true
  problem.value = null
  try {
    await session.signIn(email.value, password.value)
    const next = typeof route.query.next === 'string' && /^\/(?!\/)/.test(route.query.next) ? route.query.next : '/'
    await router.push(next)
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    problem.value = error.message
  } finally {
    isBusy.value = false
  }
}
function useAccount(address: string): void {
  email.value = address
  password.value = demo.value?.password ?? ''
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
        <form class="rounded-lg border border-rule bg-sheet p-5" @submit.prevent="signIn">
          <h2 class="mb-4 font-name text-lg font-bold">Sign in</h2>
          <label class="block text-xs font-semibold text-ink-2" for="email">E-mail address</label>
          <input
            id="email"
            v-model="email"
            type="email"
            required
            autocomplete="username"
            autofocus
            class="mt-1 mb-3 w-full rounded border border-rule bg-raised px-3 py-2" />
          <label class="block text-xs font-semibold text-ink-2" for="password">Password</label>
          <input
            id="password"
            v-model="password"
            type="password"
            required
            autocomplete="current-password"
            class="mt-1 mb-4 w-full rounded border border-rule bg-raised px-3 py-2" />
          <p v-if="problem" role="alert" class="mb-3 rounded bg-brick-wash px-3 py-2 text-brick">{{ problem }}</p>
          <button
            type="submit"
            class="w-full rounded-[5px] bg-pine px-3 py-2 font-bold text-on-pine disabled:opacity-60"
            :disabled="isBusy">
            Sign in
          </button>
        </form>
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
            @click="useAccount(a.email)">
            <b>{{ a.name }}</b> <span>{{ a.about }}</span>
          </button>
        </section>
      </div>
    </div>
  </main>
</template>
