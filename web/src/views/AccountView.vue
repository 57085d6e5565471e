<script setup lang="ts">
/** How one signs in, and where one is signed in. It belongs to no workspace. */
import { computed, ref } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { api, take } from '@/api/client'
import type { OwnAccount } from '@/api/types'
import LoadState from '@/components/ui/LoadState.vue'
import NameMark from '@/components/ui/NameMark.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import PasskeyList from '@/features/frame/PasskeyList.vue'
import PasswordDialog from '@/features/frame/PasswordDialog.vue'
import SecondStep from '@/features/frame/SecondStep.vue'
import { readNext } from '@/lib/next'
import { sayTime } from '@/lib/words'
import { OWN_ZONE } from '@/lib/zones'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const {
  data: account,
  ask,
  refetch,
} = useAsk<OwnAccount>('How you sign in', {
  key: () => ['me', session.session?.member_id ?? 0],
  query: () => take(api.GET('/api/me')),
  staleTime: 0,
})
/** The workspace that asks for a second step before it opens. */
const asking = computed(() => session.session?.workspaces.find((w) => String(w.id) === route.query.needed)?.name)
const next = computed(() => readNext(route.query.next))
/** No workspace's clock: this is about oneself. */
const zone = OWN_ZONE
const { problem, attempt } = useAttempt(refetch)
const isChangingPassword = ref(false)
async function changed(): Promise<void> {
  await Promise.all([refetch(), session.renew()])
}
const end = (id: number | null): Promise<boolean> =>
  attempt(() =>
    id === null
      ? take(api.DELETE('/api/me/sessions'))
      : take(api.DELETE('/api/me/sessions/{session_id}', { params: { path: { session_id: id } } })),
  )
const others = computed(() => account.value?.sessions.filter((s) => !s.is_this).length ?? 0)
const button = 'rounded border border-rule bg-raised px-3 py-1.5 font-semibold hover:bg-fold'
</script>

<template>
  <main class="h-full overflow-y-auto p-6">
    <div class="mx-auto w-full max-w-2xl">
      <div class="flex items-baseline justify-between">
        <NameMark />
        <RouterLink v-if="!asking || account?.is_on" class="font-semibold text-pine underline" :to="next"
          >To the desk</RouterLink
        >
      </div>
      <h1 class="font-name text-2xl font-bold">How you sign in</h1>
      <p class="mb-4 text-ink-2">{{ session.session?.name }}, {{ session.session?.email }}</p>
      <p
        v-if="asking && account && !account.is_on"
        role="status"
        class="mb-4 rounded-md border border-honey-line bg-honey-wash px-4 py-2 text-honey-ink"
        data-test="needed">
        {{ asking }} asks everybody who works there for a second step. It opens when you have set one up.
      </p>
      <LoadState :of="ask" :lines="6">
        <template v-if="account">
          <section class="mb-4 rounded-lg border border-rule bg-sheet p-5">
            <h2 class="mb-2 font-name text-lg font-bold">Second step</h2>
            <SecondStep :account="account" @changed="changed" />
          </section>
          <section class="mb-4 rounded-lg border border-rule bg-sheet p-5">
            <h2 class="mb-2 font-name text-lg font-bold">Passkeys</h2>
            <PasskeyList :account="account" :zone="zone" @changed="changed" />
          </section>
          <section class="mb-4 rounded-lg border border-rule bg-sheet p-5">
            <h2 class="mb-2 font-name text-lg font-bold">Password</h2>
            <template v-if="account.has_password">
              <p class="mb-2">Changing it ends your sessions elsewhere.</p>
              <button type="button" :class="button" @click="isChangingPassword = true">Change the password</button>
            </template>
            <p v-else>
              You have none here. If you want one besides, sign out and have a link mailed to you with “Forgot the
              password?”.
            </p>
          </section>
          <section class="mb-4 rounded-lg border border-rule bg-sheet p-5" data-test="sessions">
            <h2 class="mb-2 font-name text-lg font-bold">Where you are signed in</h2>
            <ul>
              <li
                v-for="s in account.sessions"
                :key="s.id"
                class="flex items-baseline justify-between gap-4 border-b border-rule-soft py-2 last:border-0"
                data-test="session">
                <span
                  ><b>{{ s.browser }}</b
                  ><template v-if="s.is_this"> (here)</template
                  ><span class="block text-xs text-ink-2"
                    >from {{ s.came_from || 'an unknown address' }}, since {{ sayTime(s.created_at, zone) }}, last used
                    {{ sayTime(s.seen_at, zone) }}</span
                  ></span
                >
                <button
                  v-if="!s.is_this"
                  type="button"
                  class="shrink-0 text-[0.8125rem] font-semibold underline"
                  :aria-label="`End the session of ${s.browser} from ${s.came_from}`"
                  @click="end(s.id)">
                  End
                </button>
              </li>
            </ul>
            <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
            <button v-if="others" type="button" class="mt-3" :class="button" @click="end(null)">
              End all the others
            </button>
          </section>
        </template>
      </LoadState>
    </div>
    <PasswordDialog v-if="isChangingPassword" @close="isChangingPassword = false" />
  </main>
</template>
