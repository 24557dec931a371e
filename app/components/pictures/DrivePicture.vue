<script setup lang="ts">
import { curveAt } from '@oleaje/core/dsp/antiderivative'
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { drawCurve, drawSheet } from './profile'

/** The curve from input to output, and on it the stretch that the signal reaches now. */
const props = defineProps<{ id: string }>()
const live = useLive(props.id)

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const s = drawSheet(pen, { min: -1, max: 1, marks: [[-1, '−1'], [-0.5, '−0.5'], [0, '0'], [0.5, '0.5'], [1, '1']] }, { min: -1.1, max: 1.1, marks: [[-1, '−1'], [-0.5, ''], [0, '0'], [0.5, ''], [1, '1']] })
  const from = (x: number): number => -1 + 2 * (x - s.left) / (s.right - s.left)
  const bent = (v: Record<string, number>) => {
    const f = (x: number): number => curveAt(v.curve ?? 0, 1 - (v.asymmetry ?? 0), x)
    const d = 10 ** ((v.drive ?? 0) / 20 + (v.range ?? 1) - 1)
    const o = 10 ** ((v.output ?? 0) / 20)
    const rest = f(v.bias ?? 0)
    return (x: number): number => (f(x * d + (v.bias ?? 0)) - rest) * o
  }
  const now = bent(live.now())
  drawCurve(pen, s, (x) => s.y(now(from(x))), { color: color('ink'), width: 2.5, fill: color('water') })
  drawCurve(pen, s, (x) => s.y(bent(live.base.value)(from(x))), { color: color('second'), width: 1 })
  const ends = live.ends.value
  if (ends) for (const v of [ends.low, ends.high]) drawCurve(pen, s, (x) => s.y(bent(v)(from(x))), { color: color(`hue-${ends.hue}`), dash: [4, 4] })
  // the stretch in use: found back from the output that is measured
  const out = Math.min(1, live.peak())
  let reach = 0
  while (reach < 1 && Math.abs(now(reach)) < out) reach += 0.01
  g.strokeStyle = color('magenta')
  g.lineWidth = 4
  g.beginPath()
  for (let x = -reach; x <= reach; x += 0.02) g.lineTo(s.x(x), s.y(now(x)))
  g.stroke()
})
</script>

<template>
  <canvas ref="canvas" class="h-full w-full" role="img" aria-label="Transfer curve of the drive with the signal on it" />
</template>
