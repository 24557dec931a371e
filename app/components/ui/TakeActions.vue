<script setup lang="ts">
import type { Take, Track } from '@oleaje/core/project/schema'
import { useSession } from '../../composables/useSession'

/** What is done with a take: its sides are heard by themselves or kept as tracks, or it is taken away. */
defineProps<{ track: Track; take: Take }>()
const { takes, monitoring } = useSession()
const sides = ['dry', 'wet'] as const
</script>

<template>
  <template v-for="side in sides" :key="side">
    <button
      class="small-button"
      :aria-pressed="monitoring.heardTake === `${take.id} ${side}`"
      :aria-label="`Play ${take.name}, ${side}`"
      @click="takes.hear(take, side)"
    >
      Play {{ side }}
    </button>
    <button
      class="small-button"
      :aria-label="`Keep ${take.name}, ${side}`"
      :title="
        side === 'dry'
          ? 'Puts the dry take on a new track with the same chain'
          : 'Puts the processed take on a new track'
      "
      @click="takes.keep(track, take, side)"
    >
      Keep {{ side }}
    </button>
  </template>
  <button
    class="small-button"
    :aria-label="`Remove ${take.name}`"
    title="Removes the take. Undo restores it."
    @click="takes.remove(track, take)"
  >
    ×
  </button>
</template>
