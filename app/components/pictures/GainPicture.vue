<script setup lang="ts">
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { drawCurve, drawSheet } from './profile'

/** The straight line from input to output: its steepness is the gain, its direction the polarity. */
const props = defineProps<{ id: string }>()
const live = useLive(props.id)

const canvas = useCanvas((pen) => {
  const { color } = pen
  const s = drawSheet(
    pen,
    {
      min: -1,
      max: 1,
      marks: [
        [-1, '−1'],
        [0, '0'],
        [1, '1'],
      ],
    },
    {
      min: -2,
      max: 2,
      marks: [
        [-2, '−2'],
        [-1, '−1'],
        [0, '0'],
        [1, '1'],
        [2, '2'],
      ],
    },
  )
  const slope = (v: Record<string, number>): number =>
    v.mode === 1 ? (v.factor ?? 1) : (v.level ?? 0) <= -72 ? 0 : 10 ** ((v.level ?? 0) / 20)
  const at =
    (k: number) =>
    (x: number): number =>
      s.y(k * (-1 + (2 * (x - s.left)) / (s.right - s.left)))
  drawCurve(pen, s, at(slope(live.now())), { color: color('ink'), width: 2.5, fill: color('water') })
  drawCurve(pen, s, at(slope(live.base.value)), { color: color('second'), width: 1 })
  const ends = live.ends.value
  if (ends)
    for (const v of [ends.low, ends.high])
      drawCurve(pen, s, at(slope(v)), { color: color(`hue-${ends.hue}`), dash: [4, 4] })
})
</script>

<template>
  <canvas ref="canvas" class="h-full w-full" role="img" aria-label="Gain as a line from input to output" />
</template>
