<script setup lang="ts">
/** Announces a draw: who takes part, until when, how many win. What is fixed here is not changed any more. */
import { ref, watch } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { DrawRules, PostChoice } from '@/api/types'
import MultiPick from '@/components/ui/MultiPick.vue'
import UiButton from '@/components/ui/UiButton.vue'
import { useDirectory } from '@/composables/useDirectory'
import { fromField, saySkipped, sayTime, sayZone } from '@/lib/words'

const props = defineProps<{ workspaceId: number; zone: string; post: number | null; problem: string | null }>()
const emit = defineEmits<{ announce: [post: number, rules: DrawRules]; close: [] }>()
const { byNetwork, offeredTags } = useDirectory()
const words = ref('')
const posts = ref<PostChoice[]>([])
const post = ref<number | null>(props.post)
const name = ref('')
const deadline = ref('')
const mustSay = ref('')
const staff = ref<number[]>([])
const firstOnly = ref(true)
const winners = ref(1)
const reserves = ref(1)
const publicSource = ref('')
let turn = 0
const failed = ref<string | null>(null)
watch(
  words,
  async (now) => {
    const mine = ++turn
    await new Promise((resolve) => setTimeout(resolve, 150))
    if (mine !== turn) return
    try {
      const found = await take(
        api.GET('/api/workspaces/{workspace_id}/posts', {
          params: { path: { workspace_id: props.workspaceId }, query: { words: now } },
        }),
      )
      if (mine === turn) posts.value = found
      failed.value = null
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      if (mine === turn) failed.value = error.message
    }
  },
  { immediate: true },
)
watch(post, (id) => {
  const chosen = posts.value.find((p) => p.id === id)
  if (chosen && !name.value) name.value = chosen.title
})
function announce(): void {
  const at = fromField(deadline.value, props.zone)
  if (post.value === null || at === null) return
  emit('announce', post.value, {
    name: name.value,
    deadline: new Date(at).toISOString(),
    words: mustSay.value
      .split(',')
      .map((w) => w.trim())
      .filter(Boolean),
    staff: staff.value,
    first_only: firstOnly.value,
    winners: winners.value,
    reserves: reserves.value,
    public_source: publicSource.value,
  })
}
const field = 'rounded border border-rule bg-raised px-1.5 py-0.5'
</script>

<template>
  <form class="max-w-3xl p-4 text-[0.84375rem] md:p-6" data-test="draw-form" @submit.prevent="announce">
    <h2 class="mb-2 font-name text-xl font-bold">Announce a draw</h2>
    <fieldset class="mb-4">
      <legend class="mb-1 text-xs font-semibold text-ink-2">Among those who spoke under</legend>
      <input
        v-model="words"
        type="search"
        :class="[field, 'mb-1 w-72']"
        placeholder="Words of the post"
        aria-label="Find a post"
        data-test="post-words" />
      <div class="max-h-52 scroll-quiet overflow-y-auto rounded-md border border-rule bg-raised">
        <label
          v-for="p in posts"
          :key="p.id"
          class="flex items-baseline gap-2 border-b border-rule-soft px-3 py-1 last:border-0"
          :class="post === p.id ? 'bg-pine-wash' : ''"
          ><input v-model="post" type="radio" name="post" :value="p.id" class="accent-pine" /><b class="truncate">{{
            p.title || p.body
          }}</b
          ><span class="ml-auto text-xs whitespace-nowrap text-ink-2"
            >{{ byNetwork.get(p.network)?.name
            }}<template v-if="p.published_at">, {{ sayTime(p.published_at, zone) }}</template
            >, {{ p.conversations }} {{ p.conversations === 1 ? 'person' : 'people' }}</span
          ></label
        >
        <p v-if="!posts.length" class="px-3 py-2 text-ink-2">No post has these words.</p>
      </div>
    </fieldset>
    <div class="grid grid-cols-[150px_minmax(0,1fr)] items-center gap-x-3 gap-y-2">
      <label for="draw-name" class="font-semibold">Its name</label
      ><input id="draw-name" v-model="name" required maxlength="120" :class="[field, 'w-80']" data-test="draw-name" />
      <label for="draw-deadline" class="font-semibold">Open until{{ sayZone(zone) ? `, ${sayZone(zone)}` : '' }}</label
      ><input
        id="draw-deadline"
        v-model="deadline"
        type="datetime-local"
        required
        :class="[field, 'w-56']"
        data-test="draw-deadline" /><template v-if="saySkipped(deadline, zone)"
        ><span />
        <span role="status" class="text-[0.8125rem] text-honey-ink">{{ saySkipped(deadline, zone) }}</span></template
      >
      <label for="draw-words" class="font-semibold">Has one of the words</label
      ><input id="draw-words" v-model="mustSay" :class="[field, 'w-80']" placeholder="any words will do" />
      <span class="font-semibold">Left out</span
      ><span class="flex flex-wrap items-center gap-3"
        >people tagged
        <MultiPick
          v-model="staff"
          label="Tags of people"
          empty="nothing"
          :choices="offeredTags.map((t) => ({ value: t.id, text: t.name }))" /><label class="flex items-center gap-1.5"
          ><input v-model="firstOnly" type="checkbox" class="accent-pine" />replies to others' comments</label
        ></span
      >
      <label for="draw-winners" class="font-semibold">Winners</label
      ><span class="flex items-center gap-3"
        ><input
          id="draw-winners"
          v-model.number="winners"
          type="number"
          min="1"
          max="200"
          required
          :class="[field, 'w-20']" /><label class="flex items-center gap-1.5"
          >and
          <input
            v-model.number="reserves"
            type="number"
            min="0"
            max="200"
            required
            :class="[field, 'w-20']"
            aria-label="How many reserves" />
          reserves, in case a winner cannot be reached</label
        ></span
      >
      <label for="draw-public" class="font-semibold">Public value</label
      ><input
        id="draw-public"
        v-model="publicSource"
        maxlength="200"
        :class="[field, 'w-full max-w-xl']"
        placeholder="none, or what nobody can know before: the lottery numbers of Saturday, say"
        data-test="draw-public" />
    </div>
    <p class="mt-4 text-xs text-ink-2">
      One entry for each person, however often they wrote; blocked people, removed and hidden comments are left out by
      themselves. A seed is thrown now and sealed, from us too; its fingerprint can be published with the announcement.
      At the deadline the list is closed and its fingerprint shown; only then is the seed opened, so that nobody can
      choose whom to leave out. A public value is mixed in besides, and typed in when you draw.
    </p>
    <p v-if="failed" role="alert" class="text-brick">The posts could not be looked up. {{ failed }}</p>
    <p v-if="problem" role="alert" class="mt-2 text-brick">{{ problem }}</p>
    <p class="mt-3 flex gap-2">
      <UiButton kind="main" type="submit" :disabled="post === null" data-test="announce"> Announce it</UiButton
      ><UiButton @click="emit('close')">Cancel</UiButton>
    </p>
  </form>
</template>
