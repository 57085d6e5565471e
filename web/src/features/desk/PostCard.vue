<script setup lang="ts">
import type { Post } from '@/api/types'
import { sayTime } from '@/lib/words'

defineProps<{ post: Post; zone: string; networkName: string }>()
defineEmits<{ thread: [] }>()
</script>

<template>
  <section
    class="mb-3 rounded-md border border-rule bg-paper px-3 py-2 text-[0.8125rem]"
    aria-label="The post this is about">
    <b v-if="post.title" class="block">{{ post.title }}</b>
    <p class="line-clamp-2" :class="post.title ? 'text-ink-2' : ''" dir="auto">{{ post.body }}</p>
    <p class="mt-0.5 text-xs text-ink-2">
      {{ post.author ? `By ${post.author}` : 'Our page'
      }}<template v-if="post.published_at">, {{ sayTime(post.published_at, zone) }}</template
      >. {{ post.comments }} {{ post.comments === 1 ? 'message' : 'messages' }} under it, {{ post.reactions }}
      {{ post.reactions === 1 ? 'reaction' : 'reactions' }}.
      <button type="button" class="underline" data-test="see-thread" @click="$emit('thread')">
        See the whole thread</button
      ><template v-if="post.url"> or </template>
      <a v-if="post.url" :href="post.url" target="_blank" rel="noreferrer" class="underline"
        >open on {{ networkName }}</a
      >
    </p>
  </section>
</template>
