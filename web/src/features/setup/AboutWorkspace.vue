<script setup lang="ts">
/** What the workspace is called and is about; putting it away. */
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import type { AboutWorkspace } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import MultiPick from '@/components/ui/MultiPick.vue'
import LoadState from '@/components/ui/LoadState.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useAsk } from '@/composables/useAsk'
import { useAttempt } from '@/composables/useAttempt'
import { LANGUAGES, sayLanguage } from '@/lib/filters'
import { useSession } from '@/stores/session'

const props = defineProps<{ workspaceId: number }>()
const emit = defineEmits<{ saved: [] }>()
const session = useSession()
const router = useRouter()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { data, ask, refetch } = useAsk<AboutWorkspace>('The workspace', {
  key: () => ['about', props.workspaceId],
  query: () => take(api.GET('/api/workspaces/{workspace_id}/about', { params: { path: path.value } })),
})
const name = ref('')
const description = ref('')
const languages = ref<string[]>([])
const colour = ref('')
const settles = ref(false)
/** What is there, put into the fields; what somebody has changed in one and not kept yet stays. */
watch(
  data,
  (now, was) => {
    if (!now) return
    if (name.value === (was?.name ?? '')) name.value = now.name
    if (description.value === (was?.description ?? '')) description.value = now.description
    if (languages.value.join() === (was?.languages ?? []).join()) languages.value = [...now.languages]
    if (colour.value === (was?.colour ?? '')) colour.value = now.colour ?? ''
    if (settles.value === (was?.send_settles ?? false)) settles.value = now.send_settles
  },
  { immediate: true },
)
const isOther = computed(
  () =>
    data.value !== undefined &&
    (name.value !== data.value.name ||
      description.value !== data.value.description ||
      languages.value.join() !== data.value.languages.join() ||
      settles.value !== data.value.send_settles ||
      (colour.value || null) !== data.value.colour),
)
const { problem, attempt } = useAttempt()
const isAsking = ref(false)
const save = (): Promise<boolean> =>
  attempt(async () => {
    const body = {
      name: name.value,
      description: description.value,
      languages: languages.value,
      colour: colour.value || null,
      send_settles: settles.value,
    }
    await take(api.PUT('/api/workspaces/{workspace_id}/about', { params: { path: path.value }, body }))
    await seen()
    // As they are kept: tidied.
    if (data.value) {
      name.value = data.value.name
      description.value = data.value.description
    }
    emit('saved')
  })
const picture = computed(() =>
  data.value?.picture ? `/api/workspaces/${props.workspaceId}/picture?of=${data.value.picture}` : null,
)
const seen = async (): Promise<void> => {
  await Promise.all([refetch(), session.renew()])
}
const setPicture = (event: Event): Promise<boolean> =>
  attempt(async () => {
    const field = event.target as HTMLInputElement
    const file = field.files?.[0]
    if (!file) return
    // The same file chosen again is another try.
    field.value = ''
    await take(
      api.PUT('/api/workspaces/{workspace_id}/picture', {
        params: { path: path.value },
        body: file as unknown as string,
        bodySerializer: (one: unknown) => one as BodyInit,
        headers: { 'Content-Type': 'application/octet-stream' },
      }),
    )
    await seen()
  })
const removePicture = (): Promise<boolean> =>
  attempt(async () => {
    await take(api.DELETE('/api/workspaces/{workspace_id}/picture', { params: { path: path.value } }))
    await seen()
  })
const archive = (): Promise<boolean> =>
  attempt(async () => {
    await take(api.POST('/api/workspaces/{workspace_id}/archive', { params: { path: path.value } }))
    await session.renew()
    await router.push({ name: 'workspaces' })
  })
const button = 'rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold'
</script>

<template>
  <section class="mb-8" aria-labelledby="about-title" data-test="about">
    <h2 id="about-title" class="scroll-mt-4 font-name text-lg font-bold">This workspace</h2>
    <LoadState :of="ask" :lines="3">
      <form v-if="data" class="rounded-md border border-rule bg-sheet p-4" @submit.prevent="save">
        <label class="block text-xs font-semibold text-ink-2"
          >What it is called<input
            v-model="name"
            required
            maxlength="60"
            :readonly="!data.is_owner"
            class="mt-1 mb-3 block w-full max-w-sm rounded border border-rule bg-raised px-2 py-1 text-[0.84375rem] font-normal text-ink"
            data-test="about-name"
        /></label>
        <label class="block text-xs font-semibold text-ink-2"
          >What it is about, for whoever comes new<textarea
            v-model="description"
            rows="2"
            maxlength="400"
            :readonly="!data.is_owner"
            class="mt-1 mb-3 block w-full rounded border border-rule bg-raised px-2 py-1 text-[0.84375rem] font-normal text-ink"
            data-test="about-description" />
        </label>
        <p class="mb-1 text-xs font-semibold text-ink-2">Languages your team reads</p>
        <MultiPick
          v-if="data.is_owner"
          v-model="languages"
          label="Languages your team reads"
          :choices="LANGUAGES.map((one) => ({ value: one as string, text: sayLanguage(one) }))" />
        <p v-else class="text-[0.84375rem]">{{ languages.map(sayLanguage).join(', ') }}</p>
        <p class="mt-1 mb-3 text-[0.8125rem] text-ink-2">
          What comes in another is offered in translation; {{ sayLanguage(languages[0] ?? 'en') }}, the first, is the
          one you write in.
        </p>
        <div class="mb-3 flex flex-wrap items-end gap-x-6 gap-y-3" data-test="looks">
          <div>
            <p class="text-xs font-semibold text-ink-2">Picture</p>
            <div class="mt-1 flex items-center gap-2">
              <img v-if="picture" :src="picture" alt="The workspace’s picture" class="size-10 rounded object-contain" />
              <label v-if="data.is_owner" class="cursor-pointer focus-within:outline-2" :class="button"
                >{{ picture ? 'Another' : 'Choose a picture'
                }}<input
                  type="file"
                  class="sr-only"
                  accept="image/png,image/jpeg,image/webp,image/gif"
                  data-test="about-picture"
                  @change="setPicture"
              /></label>
              <button v-if="data.is_owner && picture" type="button" :class="button" @click="removePicture">
                Remove
              </button>
            </div>
          </div>
          <label class="text-xs font-semibold text-ink-2"
            >Colour<span class="mt-1 flex items-center gap-2"
              ><input
                type="color"
                :value="colour || '#14564a'"
                :disabled="!data.is_owner"
                class="h-8 w-12 rounded border border-rule bg-raised"
                data-test="about-colour"
                @input="colour = ($event.target as HTMLInputElement).value" /><button
                v-if="data.is_owner && colour"
                type="button"
                :class="button"
                @click="colour = ''">
                None
              </button></span
            ></label
          >
          <p class="max-w-xs text-[0.8125rem] text-ink-2">
            On shared reports, and for those who look on without sorting. What stands on the colour stays readable.
          </p>
        </div>
        <label class="mb-3 flex items-center gap-2 text-[0.84375rem]"
          ><input
            v-model="settles"
            type="checkbox"
            class="accent-pine"
            :disabled="!data.is_owner"
            data-test="about-settles" />Sending an answer settles the conversation (Ctrl Shift Enter sends it and keeps
          it open)</label
        >
        <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick">{{ problem }}</p>
        <div v-if="data.is_owner" class="flex flex-wrap gap-2">
          <button
            type="submit"
            class="rounded bg-pine px-3 py-1 text-[0.8125rem] font-bold text-on-pine disabled:opacity-60"
            :disabled="!isOther">
            Save
          </button>
          <button type="button" :class="button" @click="isAsking = true">Archive it</button>
          <RouterLink :class="button" :to="{ name: 'start', params: { workspace: String(workspaceId) } }"
            >First steps</RouterLink
          >
          <RouterLink :class="button" :to="{ name: 'workspaces', query: { from: String(workspaceId) } }"
            >New workspace</RouterLink
          >
        </div>
      </form>
    </LoadState>
    <AppDialog v-if="isAsking" open :title="`Archive ${data?.name ?? ''}`" @close="isAsking = false">
      <p class="mb-2">
        Nobody opens it from then on; its accounts are not read, no rule and no clock runs in it, nothing leaves it. All
        that is in it is kept.
      </p>
      <p class="mb-3">
        An Owner can bring it back under Workspaces. What was to go out stays held then, until somebody lets it go.
      </p>
      <p v-if="problem" role="alert" class="mb-2 text-brick">{{ problem }}</p>
      <div class="flex justify-end gap-2">
        <UiButton @click="isAsking = false">Cancel</UiButton>
        <UiButton kind="danger" @click="archive">Archive it</UiButton>
      </div>
    </AppDialog>
  </section>
</template>
