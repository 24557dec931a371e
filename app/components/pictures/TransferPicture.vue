<script setup lang="ts">
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { drawCurve, drawSheet, line } from './profile'
import type { TransferCurve } from './transfer-curves'

/** The curve from input to output of a distortion, and on it the stretch that the signal goes over now. */
const props = defineProps<{
  id: string
  curve: TransferCurve
  thresholds?: (values: Record<string, number>) => number[]
}>()
const live = useLive(props.id)

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const { curve } = props
  const s = drawSheet(
    pen,
    {
      min: -1,
      max: 1,
      marks: [
        [-1, '−1'],
        [-0.5, '−0.5'],
        [0, '0'],
        [0.5, '0.5'],
        [1, '1'],
      ],
    },
    {
      min: -1.1,
      max: 1.1,
      marks: [
        [-1, '−1'],
        [-0.5, ''],
        [0, '0'],
        [0.5, ''],
        [1, '1'],
      ],
    },
  )
  const from = (x: number): number => -1 + (2 * (x - s.left)) / (s.right - s.left)
  const values = live.now()
  const now = curve(values)
  if (props.thresholds) {
    g.strokeStyle = color('second')
    g.setLineDash([2, 3])
    for (const t of props.thresholds(values)) line(g, s.left, s.y(t), s.right, s.y(t))
    g.setLineDash([])
  }
  drawCurve(pen, s, (x) => s.y(now(from(x))), { color: color('ink'), width: 2.5, fill: color('water') })
  drawCurve(pen, s, (x) => s.y(curve(live.base.value)(from(x))), { color: color('second'), width: 1 })
  const ends = live.ends.value
  if (ends)
    for (const v of [ends.low, ends.high])
      drawCurve(pen, s, (x) => s.y(curve(v)(from(x))), { color: color(`hue-${ends.hue}`), dash: [4, 4] })
  const reach = Math.min(1, live.readout('input'))
  g.strokeStyle = color('magenta')
  g.lineWidth = 4
  g.beginPath()
  for (let x = -reach; x <= reach; x += 0.01) g.lineTo(s.x(x), s.y(now(x)))
  g.stroke()
})
</script>

<template>
  <canvas
    ref="canvas"
    class="h-full w-full"
    role="img"
    aria-label="Transfer curve, with the range of the current signal"
  />
</template>
