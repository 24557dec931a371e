<script setup lang="ts">
import { RING_FRAMES } from '@oleaje/core/engine/telemetry'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'

/**
 * Left against right of the track as it is heard: a line up is mono, a wide cloud is stereo, a line across is
 * out of phase.
 */
defineProps<{ id: string }>()
const { host } = useSession()

const canvas = useCanvas(({ g, width, height, color }) => {
  const { rings, head } = host.telemetry.memory
  const l = rings[1] as Float32Array
  const r = rings[2] as Float32Array
  const end = head[0] ?? 0
  const cx = width / 2
  const cy = height / 2
  const size = Math.min(width, height) / 2 - 14
  g.strokeStyle = color('line')
  g.beginPath()
  for (const [dx, dy] of [
    [1, 0],
    [0, 1],
    [0.707, 0.707],
    [-0.707, 0.707],
  ] as const) {
    g.moveTo(cx - dx * size, cy - dy * size)
    g.lineTo(cx + dx * size, cy + dy * size)
  }
  g.stroke()
  g.fillStyle = color('ink')
  for (let i = 0; i < 2400; i += 2) {
    const at = (end - 2400 + i + RING_FRAMES) % RING_FRAMES
    const m = ((l[at] ?? 0) + (r[at] ?? 0)) * 0.707
    const s = ((l[at] ?? 0) - (r[at] ?? 0)) * 0.707
    g.globalAlpha = 0.2 + (0.6 * i) / 2400
    g.fillRect(cx - s * size * 1.6, cy - m * size * 1.6, 1.6, 1.6)
  }
  g.globalAlpha = 1
  g.fillStyle = color('second')
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = 'center'
  g.fillText('middle', cx, cy - size - 4)
  g.fillText('left', cx - size * 0.78, cy - size * 0.72)
  g.fillText('right', cx + size * 0.78, cy - size * 0.72)
  g.fillText('sides', cx + size - 12, cy - 6)
})
</script>

<template>
  <canvas ref="canvas" class="h-full w-full" role="img" aria-label="Left against right of the track" />
</template>
