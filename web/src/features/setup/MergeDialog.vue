<script setup lang="ts">
/** Which tag another becomes, and what that touches, said before it is done. */
import { computed, ref } from 'vue'
import type { UsedTag } from '@/api/types'
import AppDialog from '@/components/ui/AppDialog.vue'
import UiButton from '@/components/ui/UiButton.vue'

const props = defineProps<{ tag: UsedTag; others: UsedTag[] }>()
const emit = defineEmits<{ close: []; merge: [into: number] }>()
const into = ref<number | null>(null)
const target = computed(() => props.others.find((t) => t.id === into.value))
const sayCount = (n: number, one: string, many: string): string => `${n.toLocaleString('en')} ${n === 1 ? one : many}`
</script>

<template>
  <AppDialog open :title="`Merge ${tag.name}`" @close="emit('close')">
    <form @submit.prevent="into !== null && emit('merge', into)">
      <label class="block text-xs font-semibold text-ink-2" for="merge-into">It becomes</label>
      <select
        id="merge-into"
        v-model="into"
        required
        class="mt-1 w-full rounded border border-rule bg-raised px-2 py-1.5"
        data-test="merge-into">
        <option :value="null" disabled>Choose a tag</option>
        <option v-for="t in others" :key="t.id" :value="t.id">{{ t.name }}</option>
      </select>
      <p class="mt-3">
        {{ sayCount(tag.conversations, 'conversation', 'conversations') }} and
        {{ sayCount(tag.people, 'person', 'people') }} get {{ target?.name ?? 'that tag' }} in place of {{ tag.name }},
        and so do saved views and reports<template v-if="tag.named_by.length"
          >, and {{ tag.named_by.join(', ') }}</template
        >. Whoever writes {{ tag.name }} from now on means {{ target?.name ?? 'that tag' }}.
      </p>
      <p class="mt-2 font-semibold">This cannot be taken back.</p>
      <div class="mt-3 flex justify-end gap-2">
        <UiButton @click="emit('close')">Cancel</UiButton>
        <UiButton kind="danger" type="submit" :disabled="into === null" data-test="merge">Merge</UiButton>
      </div>
    </form>
  </AppDialog>
</template>
