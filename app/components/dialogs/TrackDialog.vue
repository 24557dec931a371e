<script setup lang="ts">
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** What a new track plays, or another sound for one that keeps its chain. */
const { doc, bench } = useSession()
const replaced = computed(() => doc.project?.tracks.find((t) => t.id === bench.replacing))

const title = computed(() => {
  if (!replaced.value) return 'New track'
  return bench.takeAs === 'pad' ? `Pads for ${replaced.value.name}` : `Another sound for ${replaced.value.name}`
})

function close(): void {
  bench.dialog = ''
  if (bench.takeAs === 'pad') bench.takeAs = 'loop'
  bench.replacing = null
}
</script>

<template>
  <BaseDialog :title="title" @close="close">
    <FirstTrack @taken="close" />
  </BaseDialog>
</template>
