<script setup lang="ts">
import { useSession } from '../../composables/useSession'

/** A new track: what it plays. */
const { bench } = useSession()
</script>

<template>
  <BaseDialog title="New track" @close="bench.dialog = ''">
    <FirstTrack @taken="bench.dialog = ''" />
  </BaseDialog>
</template>
