<script setup lang="ts">
/** For whoever's role does not see reports. */
import { useSession } from '@/stores/session'

const session = useSession()
</script>

<template>
  <p>Your role here ({{ session.workspace?.role }}) may not see reports. Ask an Owner of the workspace.</p>
</template>
