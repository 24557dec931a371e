<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { onBeforeUnmount, shallowRef } from 'vue'
import { paintSpectrogram } from '../../drawing/spectrogram'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import type { ShelfEntry } from '../../services/shelf-entries'
import type { SpectrogramPair } from '../../workers/spectrogram-picture'

/** Spectrograms of a phrase before and after a preset. */
const { entry } = defineProps<{ entry: ShelfEntry }>()
const { entries } = useSession()
const shown = shallowRef<SpectrogramPair | null>(null)
const failed = shallowRef(false)
/** Time in ms for which an entry must stand before it is pictured. */
const WAIT = 160
let asked = 0
onBeforeUnmount(() => asked++)
watchDebounced(
  () => entry.preset,
  async () => {
    const mine = ++asked
    failed.value = false
    const made = await entries.picture(entry).catch(() => null)
    if (mine !== asked) return
    shown.value = made
    failed.value = made === null
  },
  { immediate: true, debounce: WAIT },
)
const canvas = useCanvas(({ width, height, color, still }) => {
  still([shown.value], (g) => {
    const pair = shown.value
    if (!pair) return
    const half = (width - 6) / 2
    paintSpectrogram(g, pair.dry, { x: 0, y: 0, width: half, height })
    paintSpectrogram(g, pair.wet, { x: half + 6, y: 0, width: half, height })
    g.fillStyle = color('paper')
    g.fillRect(half, 0, 6, height)
  })
})
</script>

<template>
  <figure>
    <canvas
      ref="canvas"
      class="h-28 w-full border border-line"
      role="img"
      :aria-label="`Spectrograms of the phrase “${entries.phraseOf(entry)}” before and after ${entry.preset.name}`"
    />
    <figcaption class="grid grid-cols-2 text-tiny text-second">
      <span>{{
        failed
          ? 'No picture: the phrase could not be loaded'
          : shown
            ? `Before: ${entries.phraseOf(entry)}`
            : 'Preparing the picture…'
      }}</span><span>{{ shown ? 'After' : '' }}</span>
    </figcaption>
  </figure>
</template>
