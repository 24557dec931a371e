<script setup lang="ts">
import { usualSource } from '@oleaje/core/sources/index'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** Chooses the source of a new track, or another sound for a track that keeps its chain. */
const { doc, screen } = useSession()
const replaced = computed(() => doc.project?.tracks.find((t) => t.id === screen.replacing))

const title = computed(() => {
  if (!replaced.value) return 'New track'
  return screen.takeAs === 'pad'
    ? `Pads for ${replaced.value.name}`
    : `Another sound for ${replaced.value.name}`
})

function close(): void {
  screen.dialog = ''
  if (screen.takeAs === 'pad') screen.takeAs = usualSource
  screen.replacing = null
}
</script>

<template>
  <BaseDialog :title="title" @close="close">
    <FirstTrack @taken="close" />
  </BaseDialog>
</template>
