<script setup lang="ts">
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { drawSheet, frequencyAxis } from './profile'

/** Level of each band of the modulating sound, standing where it is laid on; thin marks where it is heard. */
const props = defineProps<{ id: string }>()
const live = useLive(props.id)

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const s = drawSheet(pen, frequencyAxis, {
    min: -72,
    max: 0,
    marks: [
      [-60, '−60'],
      [-48, '−48'],
      [-36, '−36'],
      [-24, '−24'],
      [-12, '−12'],
      [0, '0'],
    ],
  })
  const v = live.now()
  const count = Math.round(v.bands ?? 20)
  const up = 2 ** ((v.shift ?? 0) / 12)
  const hz = (b: number): number => (v.low ?? 90) * ((v.high ?? 9000) / (v.low ?? 90)) ** (b / (count - 1))
  const wide = Math.max(2, s.x(hz(1)) - s.x(hz(0)) - 2)
  for (let b = 0; b < count; b++) {
    const db = Math.max(-72, Math.min(0, 20 * Math.log10(live.readout(`band ${b + 1}`) + 1e-6)))
    const x = s.x(hz(b) * up)
    if (x < s.left || x > s.right) continue
    g.fillStyle = color('deep')
    g.fillRect(x - wide / 2, s.y(db), wide, s.bottom - s.y(db))
    g.fillStyle = color('second')
    g.fillRect(s.x(hz(b)) - 0.5, s.bottom - 5, 1, 5)
  }
  const hiss = live.readout('hiss')
  g.fillStyle = hiss > 0.3 ? color('magenta') : color('second')
  g.textAlign = 'right'
  g.textBaseline = 'top'
  g.fillText(hiss > 0.3 ? 'hiss' : (v.hold ?? 0) >= 0.5 ? 'held' : 'voiced', s.right, s.top)
})
</script>

<template>
  <canvas
    ref="canvas"
    class="h-full w-full"
    role="img"
    aria-label="Level of each band of the modulating sound"
  />
</template>
