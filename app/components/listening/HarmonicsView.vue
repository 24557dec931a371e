<script setup lang="ts">
import { Spectrum } from '@oleaje/core/analysis/spectrum'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { useRings } from './useRings'

/**
 * Levels of the first harmonics of the test tone against its fundamental, with those of even number lighter.
 */
const props = defineProps<{ tone: number }>()
const { doc } = useSession()
const heard = useRings()
const SIZE = 16_384
const harmonics = new Spectrum(SIZE)
const COUNT = 15

const canvas = useCanvas(({ g, width, height, color }) => {
  const rate = doc.project?.sampleRate ?? 48_000
  const h = heard()
  const magnitude = harmonics.ofRing(h.left, h.end)
  const level = (n: number): number => {
    const at = Math.round(((n * props.tone) / rate) * SIZE)
    let power = 0
    for (let k = at - 4; k <= at + 4; k++) power += (magnitude[k] ?? 0) ** 2
    return Math.sqrt(power)
  }
  const first = level(1) + 1e-12
  const bar = (width - 8) / COUNT
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = 'center'
  g.textBaseline = 'alphabetic'
  for (let n = 1; n <= COUNT && n * props.tone < rate / 2; n++) {
    const db = Math.max(-100, 20 * Math.log10(level(n) / first + 1e-12))
    const top = 16 + (-db / 100) * (height - 34)
    g.fillStyle = color(n % 2 ? 'deep' : 'water')
    g.fillRect(4 + (n - 1) * bar + 1, top, bar - 2, height - 16 - top)
    g.fillStyle = color('ink')
    if (n % 2 || bar > 22) g.fillText(String(n), 4 + (n - 0.5) * bar, height - 3)
    if (n > 1 && db > -60)
      g.fillText(db.toFixed(0).replace('-', '−'), 4 + (n - 0.5) * bar, Math.max(12, top - 2))
  }
})
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col">
    <canvas ref="canvas" class="min-h-0 w-full flex-1" role="img" aria-label="Harmonics of the test tone" />
  </div>
</template>
