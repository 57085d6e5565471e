<script setup lang="ts">
/** What a link of an invitation leads to: a name and a password, for the first Owner also what is made. */
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import { useEntering } from '@/composables/useEntering'
import type { Welcome } from '@/api/types'
import NameMark from '@/components/ui/NameMark.vue'
import NewPassword from '@/components/ui/NewPassword.vue'
import { useSession } from '@/stores/session'
import { OWN_ZONE, ZONES } from '@/lib/zones'

const route = useRoute()
const router = useRouter()
const session = useSession()
const token = computed(() => String(route.params.token))
const path = computed(() => ({ params: { path: { token: token.value } } }))
const welcome = ref<Welcome | null>(null)
const { problem: gone, attempt: look } = useAttempt()
const { problem, isBusy, attempt } = useEntering()
const said = ref({
  name: '',
  password: '',
  email: '',
  organisation: '',
  workspace: '',
  time_zone: OWN_ZONE,
})

onMounted(() => look(async () => (welcome.value = await take(api.GET('/api/welcome/{token}', path.value)))))
const comeIn = (): Promise<boolean> =>
  attempt(async () => {
    await take(api.POST('/api/welcome/{token}', { ...path.value, body: said.value }))
    await session.enter()
    const first = session.session?.workspaces.at(-1)
    await router.replace(
      welcome.value?.workspace === null && first
        ? { name: 'start', params: { workspace: String(first.id) } }
        : { name: 'home' },
    )
  })
const input = 'mt-1 mb-3 w-full rounded border border-rule bg-raised px-3 py-2'
const label = 'block text-xs font-semibold text-ink-2'
</script>

<template>
  <main class="grid h-full place-items-center overflow-y-auto p-6">
    <div class="w-full max-w-md">
      <NameMark />
      <div class="rounded-lg border border-rule bg-sheet p-5">
        <p v-if="gone" role="alert" data-test="gone">{{ gone }}</p>
        <p v-else-if="!welcome" role="status" class="text-ink-2">Looking at your link …</p>
        <form v-else data-test="welcome" @submit.prevent="comeIn">
          <h2 class="font-name text-lg font-bold">
            {{ welcome.workspace === null ? 'Your organisation on Sorta' : `Welcome to ${welcome.workspace}` }}
          </h2>
          <p class="mt-1 mb-4 text-[0.84375rem] text-ink-2">
            <template v-if="welcome.workspace === null"
              >You are the first here, and will be its Owner. All of this can be changed later.</template
            ><template v-else
              >{{ welcome.invited_by }} invited {{ welcome.email }} as {{ welcome.role }}.
              <template v-if="welcome.has_account">You have an account already: sign in with it.</template></template
            >
          </p>
          <template v-if="welcome.workspace === null">
            <label :class="label" for="organisation">The organisation</label>
            <input
              id="organisation"
              v-model="said.organisation"
              required
              maxlength="80"
              :class="input"
              autocomplete="organization" />
            <label :class="label" for="workspace">Its first workspace, such as a house or a brand</label>
            <input id="workspace" v-model="said.workspace" required maxlength="60" :class="input" />
            <label :class="label" for="zone">By which clock it works</label>
            <input id="zone" v-model="said.time_zone" required list="zones" :class="input" />
            <datalist id="zones"><option v-for="z in ZONES" :key="z" :value="z" /></datalist>
            <label :class="label" for="email">Your e-mail address</label>
            <input id="email" v-model="said.email" type="email" required :class="input" autocomplete="username" />
          </template>
          <input v-else type="hidden" autocomplete="username" :value="welcome.email ?? ''" />
          <template v-if="!welcome.has_account">
            <label :class="label" for="name">Your name, as your colleagues see it</label>
            <input id="name" v-model="said.name" required maxlength="80" :class="input" autocomplete="name" />
          </template>
          <template v-if="welcome.has_account">
            <label :class="label" for="password">Your password</label>
            <input
              id="password"
              v-model="said.password"
              type="password"
              required
              :class="input"
              autocomplete="current-password" />
          </template>
          <NewPassword v-else id="password" v-model="said.password" label="A password" />
          <p
            v-if="problem"
            role="alert"
            class="mb-3 rounded bg-brick-wash px-3 py-2 text-brick"
            data-test="welcome-problem">
            {{ problem }}
          </p>
          <button
            type="submit"
            class="w-full rounded-[5px] bg-pine px-3 py-2 font-bold text-on-pine disabled:opacity-60"
            :disabled="isBusy">
            {{ welcome.workspace === null ? 'Make it' : 'Come in' }}
          </button>
        </form>
      </div>
    </div>
  </main>
</template>
