<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <main class="grid h-full place-items-center p-6 text-center">
    <div>
      <h1 class="font-name text-xl font-bold">There is nothing at this address</h1>
      <p class="mt-2 text-ink-2">It may belong to a workspace you are not a member of.</p>
      <RouterLink to="/" class="mt-4 inline-block font-semibold text-pine underline">To the desk</RouterLink>
    </div>
  </main>
</template>
