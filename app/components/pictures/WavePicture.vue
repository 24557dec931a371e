<script setup lang="ts">
import { RING_FRAMES } from '@oleaje/core/engine/telemetry'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'

/**
 * The wave of the track before its chain (thin) and after it (bold), held at a rising edge; what is over full
 * scale in magenta.
 */
defineProps<{ id: string }>()
const { host } = useSession()
const FRAMES = 1200

const canvas = useCanvas(({ g, width, height, color }) => {
  const { rings, head } = host.telemetry.memory
  const dry = rings[0] as Float32Array
  const wet = rings[1] as Float32Array
  const end = (head[0] ?? 0) - FRAMES
  let start = end
  // the latest rising edge of the dry sound, so that the picture stands
  for (let i = 0; i < 4000; i++) {
    const a = dry[(end - i + 2 * RING_FRAMES) % RING_FRAMES] ?? 0
    const b = dry[(end - i - 1 + 2 * RING_FRAMES) % RING_FRAMES] ?? 0
    if (b < 0 && a >= 0) {
      start = end - i
      break
    }
  }
  const y = (v: number): number => height / 2 - v * (height / 2 - 8)
  g.strokeStyle = color('line')
  g.beginPath()
  for (const v of [-1, 0, 1]) {
    g.moveTo(0, y(v))
    g.lineTo(width, y(v))
  }
  g.stroke()
  const draw = (ring: Float32Array, stroke: string, thick: number): void => {
    g.beginPath()
    for (let i = 0; i < FRAMES; i += 1)
      g.lineTo((i / FRAMES) * width, y(ring[(start + i + 2 * RING_FRAMES) % RING_FRAMES] ?? 0))
    g.strokeStyle = stroke
    g.lineWidth = thick
    g.stroke()
  }
  draw(dry, color('deep'), 1.2)
  draw(wet, color('ink'), 2)
  g.fillStyle = color('magenta')
  for (let i = 0; i < FRAMES; i++) {
    const v = wet[(start + i + 2 * RING_FRAMES) % RING_FRAMES] ?? 0
    if (v > 1 || v < -1) g.fillRect((i / FRAMES) * width, v > 0 ? 0 : height - 5, 2, 5)
  }
})
</script>

<template>
  <canvas
    ref="canvas"
    class="h-full w-full"
    role="img"
    aria-label="Waveform of the track before and after the chain"
  />
</template>
