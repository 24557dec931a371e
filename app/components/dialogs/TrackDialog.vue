<script setup lang="ts">
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** What a new track plays, or another sound for one that keeps its chain. */
const { doc, bench } = useSession()
const replaced = computed(() => doc.project?.tracks.find((t) => t.id === bench.replacing))

function close(): void {
  bench.dialog = ''
  bench.replacing = null
}
</script>

<template>
  <BaseDialog :title="replaced ? `Another sound for ${replaced.name}` : 'New track'" @close="close">
    <FirstTrack @taken="close" />
  </BaseDialog>
</template>
