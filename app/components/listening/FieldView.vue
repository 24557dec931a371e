<script setup lang="ts">
import { RING_FRAMES } from '@oleaje/core/engine/telemetry'
import { useCanvas } from '../../composables/useCanvas'
import { useRings } from './useRings'

/**
 * Where between left and right it sounds: each frame as a point, the middle upwards, the sides across;
 * correlation below.
 */
const heard = useRings()
const POINTS = 1400
let correlation = 0

const canvas = useCanvas(({ g, width, height, color }) => {
  const h = heard()
  const reach = Math.min(width / 2, height - 34) - 4
  const [x0, y0] = [width / 2, height - 26]
  g.strokeStyle = color('line')
  g.beginPath()
  g.arc(x0, y0, reach, Math.PI, 2 * Math.PI)
  g.moveTo(x0, y0)
  g.lineTo(x0, y0 - reach)
  g.moveTo(x0 - reach * Math.SQRT1_2, y0 - reach * Math.SQRT1_2)
  g.lineTo(x0, y0)
  g.lineTo(x0 + reach * Math.SQRT1_2, y0 - reach * Math.SQRT1_2)
  g.stroke()
  g.fillStyle = color('second')
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = 'center'
  g.fillText('L', x0 - reach * 0.76, y0 - reach * 0.76)
  g.fillText('R', x0 + reach * 0.76, y0 - reach * 0.76)
  let lr = 0
  let ll = 0
  let rr = 0
  g.fillStyle = color('deep')
  for (let i = 0; i < POINTS; i++) {
    const at = (h.end - 4 * (POINTS - i) + RING_FRAMES) % RING_FRAMES
    const [l, r] = [h.left[at] ?? 0, h.right[at] ?? 0]
    lr += l * r
    ll += l * l
    rr += r * r
    const middle = Math.abs(l + r) * Math.SQRT1_2
    const side = (r - l) * Math.SQRT1_2 * (l + r < 0 ? -1 : 1)
    g.fillRect(x0 + side * reach, y0 - middle * reach, 1.5, 1.5)
  }
  correlation += 0.1 * (lr / Math.sqrt(ll * rr + 1e-12) - correlation)
  g.strokeStyle = color('line')
  g.strokeRect(x0 - reach + 0.5, height - 14.5, 2 * reach, 8)
  g.fillStyle = correlation < 0 ? color('magenta') : color('ink')
  g.fillRect(x0 + correlation * reach - 1, height - 16, 3, 12)
  g.textAlign = 'right'
  g.fillText(`correlation ${correlation.toFixed(2).replace('-', '−')}`, width - 2, 12)
})
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col">
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1"
      role="img"
      aria-label="Stereo field of the processed sound"
    />
  </div>
</template>
