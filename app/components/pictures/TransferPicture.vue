<script setup lang="ts">
import { curveAt } from '@oleaje/core/dsp/antiderivative'
import { fold } from '@oleaje/core/effects/folder'
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { drawCurve, drawSheet, line } from './profile'

/** The curve from input to output of a distortion, and on it the stretch that the signal goes over now. */
const props = defineProps<{ id: string }>()
const live = useLive(props.id)

type Values = Record<string, number>
const factor = (db: number | undefined): number => 10 ** ((db ?? 0) / 20)
const curves: Record<string, (v: Values) => (x: number) => number> = {
  drive: (v) => {
    const f = (x: number): number => curveAt(v.curve ?? 0, 1 - (v.asymmetry ?? 0), x)
    const d = factor(v.drive) * 10 ** ((v.range ?? 1) - 1)
    const rest = f(v.bias ?? 0)
    return (x) => (f(x * d + (v.bias ?? 0)) - rest) * factor(v.output)
  },
  folder: (v) => {
    const [up, low, d, m] = [v.upper ?? 0.7, v.lower ?? -0.7, factor(v.gain), factor(v.makeup)]
    return (x) => m * (low + (up - low) * fold((x * d + (v.offset ?? 0) - low) / (up - low), Math.round(v.folds ?? 4)))
  },
  crush: (v) => {
    const levels = 2 ** ((v.bits ?? 8) - 1)
    return (x) => Math.round(x * levels) / levels
  },
}

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const type = live.effect.value?.type ?? ''
  const curve = curves[type]
  if (!curve) return
  const s = drawSheet(pen, { min: -1, max: 1, marks: [[-1, '−1'], [-0.5, '−0.5'], [0, '0'], [0.5, '0.5'], [1, '1']] }, { min: -1.1, max: 1.1, marks: [[-1, '−1'], [-0.5, ''], [0, '0'], [0.5, ''], [1, '1']] })
  const from = (x: number): number => -1 + 2 * (x - s.left) / (s.right - s.left)
  const values = live.now()
  const now = curve(values)
  if (type === 'folder') {
    g.strokeStyle = color('second')
    g.setLineDash([2, 3])
    for (const t of [values.upper ?? 0.7, values.lower ?? -0.7]) line(g, s.left, s.y(t * factor(values.makeup)), s.right, s.y(t * factor(values.makeup)))
    g.setLineDash([])
  }
  drawCurve(pen, s, (x) => s.y(now(from(x))), { color: color('ink'), width: 2.5, fill: color('water') })
  drawCurve(pen, s, (x) => s.y(curve(live.base.value)(from(x))), { color: color('second'), width: 1 })
  const ends = live.ends.value
  if (ends) for (const v of [ends.low, ends.high]) drawCurve(pen, s, (x) => s.y(curve(v)(from(x))), { color: color(`hue-${ends.hue}`), dash: [4, 4] })
  const reach = Math.min(1, live.readout('input'))
  g.strokeStyle = color('magenta')
  g.lineWidth = 4
  g.beginPath()
  for (let x = -reach; x <= reach; x += 0.01) g.lineTo(s.x(x), s.y(now(x)))
  g.stroke()
})
</script>

<template>
  <canvas ref="canvas" class="h-full w-full" role="img" aria-label="Curve from input to output, with the stretch that the signal goes over" />
</template>
