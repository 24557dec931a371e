<script setup lang="ts">
import type { Take, Track } from '@oleaje/core/project/schema'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/** What can be done with a take: play its sides, keep them as tracks, cut it to the loop, or remove it. */
const props = defineProps<{ track: Track; take: Take }>()
const { doc, takes, monitoring } = useSession()
const sides = ['wet', 'dry'] as const
const acts = computed(() => {
  const { track, take } = props
  const loops = doc.project?.loop.on ?? false
  return [
    sides.map((side) => ({
      text: `Play ${side}`,
      tip: side === 'wet' ? 'Plays the processed take alone' : 'Plays the take before the chain',
      on: monitoring.heardTake === `${take.id} ${side}`,
      run: () => void takes.hear(take, side),
    })),
    [
      {
        text: 'Keep wet and dry',
        tip: 'Puts both on new tracks, the dry one with the same chain',
        run: () => takes.keep(track, take, 'wet', 'dry'),
      },
      ...sides.map((side) => ({
        text: `Keep ${side}`,
        tip:
          side === 'dry'
            ? 'Puts the dry take on a new track with the same chain'
            : 'Puts the processed take on a new track',
        run: () => takes.keep(track, take, side),
      })),
    ],
    [
      {
        text: 'Cut to the loop',
        tip: 'Keeps the last whole pass of the loop',
        disabled: !loops,
        run: () => void takes.cutToLoop(track, take, 'last'),
      },
      {
        text: 'Split into passes',
        tip: 'Makes a take of each pass of the loop',
        disabled: !loops,
        run: () => void takes.cutToLoop(track, take, 'each'),
      },
    ],
    [{ text: 'Remove', tip: 'Removes the take. Undo restores it.', run: () => takes.remove(track, take) }],
  ]
})
</script>

<template>
  <ActionMenu
    small
    :label="`Actions for ${take.name}`"
    tip="Play the take, keep it as a track, cut or remove it"
    :groups="acts"
  />
</template>
