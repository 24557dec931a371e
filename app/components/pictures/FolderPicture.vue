<script setup lang="ts">
import { fold } from '@oleaje/core/effects/folder'
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { drawCurve, drawSheet, line } from './profile'

/** The fold from input to output, its two thresholds, and the stretch that the signal reaches now. */
const props = defineProps<{ id: string }>()
const live = useLive(props.id)

const canvas = useCanvas((pen) => {
  const { g, color } = pen
  const s = drawSheet(pen, { min: -1, max: 1, marks: [[-1, '−1'], [-0.5, '−0.5'], [0, '0'], [0.5, '0.5'], [1, '1']] }, { min: -1.1, max: 1.1, marks: [[-1, '−1'], [-0.5, ''], [0, '0'], [0.5, ''], [1, '1']] })
  const from = (x: number): number => -1 + 2 * (x - s.left) / (s.right - s.left)
  const folded = (v: Record<string, number>) => {
    const d = 10 ** ((v.gain ?? 0) / 20)
    const up = v.upper ?? 0.7
    const low = v.lower ?? -0.7
    const m = 10 ** ((v.makeup ?? 0) / 20)
    return (x: number): number => m * (low + (up - low) * fold((x * d + (v.offset ?? 0) - low) / (up - low), Math.round(v.folds ?? 4)))
  }
  const values = live.now()
  const now = folded(values)
  const m = 10 ** ((values.makeup ?? 0) / 20)
  g.strokeStyle = color('second')
  g.setLineDash([2, 3])
  for (const t of [values.upper ?? 0.7, values.lower ?? -0.7]) line(g, s.left, s.y(t * m), s.right, s.y(t * m))
  g.setLineDash([])
  drawCurve(pen, s, (x) => s.y(now(from(x))), { color: color('ink'), width: 2.5, fill: color('water') })
  drawCurve(pen, s, (x) => s.y(folded(live.base.value)(from(x))), { color: color('second'), width: 1 })
  const ends = live.ends.value
  if (ends) for (const v of [ends.low, ends.high]) drawCurve(pen, s, (x) => s.y(folded(v)(from(x))), { color: color(`hue-${ends.hue}`), dash: [4, 4] })
  // how far the input reaches is the source's own level where the folder stands first: shown as what the output takes up
  const out = Math.min(1.1, live.peak())
  g.fillStyle = out > 1 ? color('magenta') : color('deep')
  g.fillRect(s.right - 5, s.y(out), 5, s.y(-out) - s.y(out))
})
</script>

<template>
  <canvas ref="canvas" class="h-full w-full" role="img" aria-label="Fold from input to output with its thresholds" />
</template>
