<script setup lang="ts">
/** Another password, by a link from a mail. */
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import { useEntering } from '@/composables/useEntering'
import NameMark from '@/components/ui/NameMark.vue'
import NewPassword from '@/components/ui/NewPassword.vue'
import { useSession } from '@/stores/session'

const route = useRoute()
const router = useRouter()
const session = useSession()
const password = ref('')
const { problem, isBusy, attempt } = useEntering()
const save = (): Promise<boolean> =>
  attempt(async () => {
    await take(
      api.POST('/api/password-links/{token}', {
        params: { path: { token: String(route.params.token) } },
        body: { password: password.value },
      }),
    )
    await session.enter()
    await router.replace({ name: 'home' })
  })
</script>

<template>
  <main class="grid h-full place-items-center overflow-y-auto p-6">
    <div class="w-full max-w-md">
      <NameMark />
      <form class="rounded-lg border border-rule bg-sheet p-5" data-test="password" @submit.prevent="save">
        <h2 class="mb-4 font-name text-lg font-bold">Another password</h2>
        <NewPassword
          id="password"
          v-model="password"
          label="The new one"
          more="Wherever else you are signed in, you are not any more after this." />
        <p v-if="problem" role="alert" class="mb-3 rounded bg-brick-wash px-3 py-2 text-brick">{{ problem }}</p>
        <button
          type="submit"
          class="w-full rounded-[5px] bg-pine px-3 py-2 font-bold text-on-pine disabled:opacity-60"
          :disabled="isBusy">
          Set it and come in
        </button>
      </form>
    </div>
  </main>
</template>
