<script setup lang="ts">
import { useSession } from '../../composables/useSession'
import type { Morphed } from '../../composables/morphed'

/** The badges of morphs that move a gauge. A click opens the morph. */
defineProps<{ morphs: readonly Morphed[]; textOf: (place: number) => string }>()
const { selection } = useSession()
function show(id: string): void {
  if (!selection.openModulators.includes(id)) selection.openModulators = [...selection.openModulators, id]
  selection.traced = id
}
</script>

<template>
  <button
    v-for="{ modulator, ends } in morphs"
    :key="modulator.id"
    :title="`${modulator.name} moves it between snapshots, ${textOf(ends.from)} to ${textOf(ends.to)}. Click to open the morph`"
    :aria-label="`Morphed by ${modulator.name}`"
    @click="show(modulator.id)"
  >
    <Badge :letter="modulator.letter || '·'" :hue="modulator.hue" />
  </button>
</template>
