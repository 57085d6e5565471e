<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ApiProblem, take } from '@/api/client'
import type { Demo } from '@/api/types'
import NameMark from '@/components/ui/NameMark.vue'
import ForgottenForm from '@/features/frame/ForgottenForm.vue'
import SignInForm from '@/features/frame/SignInForm.vue'
import { readNext } from '@/lib/next'

const route = useRoute()
const router = useRouter()
const demo = ref<Demo | null>(null)
const isForgotten = ref(false)
const form = ref<InstanceType<typeof SignInForm> | null>(null)

onMounted(async () => {
  demo.value = await take(api.GET('/api/demo')).catch(() => null)
  // The password may have been right already: by a link from a mail, or before a reload.
  await take(api.GET('/api/session')).catch((error: unknown) => {
    if (error instanceof ApiProblem && error.kind === 'second-step') form.value?.askCode()
  })
})
function go(): void {
  void router.push(readNext(route.query.next))
}
</script>

<template>
  <main class="grid h-full place-items-center overflow-y-auto p-6">
    <div class="w-full max-w-3xl">
      <NameMark />
      <div class="grid gap-6" :class="demo?.password ? 'md:grid-cols-2' : ''">
        <div class="rounded-lg border border-rule bg-sheet p-5">
          <h2 class="mb-4 font-name text-lg font-bold">
            {{ isForgotten ? 'A link to set another password' : 'Sign in' }}
          </h2>
          <template v-if="!isForgotten">
            <SignInForm ref="form" autofocus @done="go" />
            <button
              type="button"
              class="mt-3 text-[0.8125rem] font-semibold text-pine underline"
              data-test="forgot"
              @click="isForgotten = true">
              Forgot the password?
            </button>
          </template>
          <ForgottenForm v-else @back="isForgotten = false" />
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
