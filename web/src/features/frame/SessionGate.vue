<script setup lang="ts">
/** Over the page when its session is not any more what it was: nothing on it is lost, and nothing on it can be done. */
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, ref } from 'vue'
import SignInForm from './SignInForm.vue'
import { useSession } from '@/stores/session'

const session = useSession()
const WORDS = {
  ended: ['Sign in again to go on', 'Your session has ended.'],
  'signed-out': ['You signed out in another tab', 'This page is still as you left it.'],
  another: ['Somebody else is signed in now', 'In another tab of this browser somebody else signed in.'],
} as const
const words = computed(() => WORDS[session.gate ?? 'ended'])
const first = computed(() => session.session?.name.split(' ')[0] ?? '')
/** It comes while one is writing: not a letter of that may land in a field of this. */
const title = ref<HTMLElement | null>(null)
const reload = (): void => location.reload()
</script>

<template>
  <Dialog open :initial-focus="title" class="relative z-50" data-test="gate">
    <div class="fixed inset-0 bg-band/60" aria-hidden="true" />
    <div class="fixed inset-0 flex items-start justify-center overflow-y-auto p-4 pt-[12vh]">
      <DialogPanel class="w-full max-w-md rounded-lg border border-rule bg-sheet p-5 shadow-xl">
        <DialogTitle as="template">
          <h2 ref="title" tabindex="-1" class="mb-2 font-name text-lg font-bold focus:outline-none">{{ words[0] }}</h2>
        </DialogTitle>
        <p class="mb-4">
          {{ words[1] }} What you wrote stays on this page and on this device; sign in as {{ first }} and it is sent on.
          Nothing is done in anybody else's name.
        </p>
        <SignInForm :address="session.session?.email ?? ''" />
        <button
          v-if="session.gate === 'another'"
          type="button"
          class="mt-3 w-full rounded-[5px] border border-rule px-3 py-2 font-semibold hover:bg-fold"
          @click="reload">
          Go on as whoever is signed in now
        </button>
      </DialogPanel>
    </div>
  </Dialog>
</template>
