<script setup lang="ts">
import { compressorCurve, upwardCurve } from '@oleaje/core/effects/compressor'
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { drawCurve, drawSheet, line } from './profile'

/** The static curve with the level that is there now on it, and the gain change of the last seconds above. */
const props = defineProps<{ id: string }>()
const live = useLive(props.id)
const past = new Float32Array(240)
let at = 0

const canvas = useCanvas((pen) => {
  const { g, color, height } = pen
  const s = drawSheet(
    { ...pen, height: height - 46 },
    {
      min: -60,
      max: 6,
      marks: [
        [-48, '−48'],
        [-36, '−36'],
        [-24, '−24'],
        [-12, '−12'],
        [0, '0'],
      ],
    },
    {
      min: -60,
      max: 6,
      marks: [
        [-48, '−48'],
        [-36, '−36'],
        [-24, '−24'],
        [-12, '−12'],
        [0, '0'],
      ],
    },
  )
  const level = (x: number): number => -60 + (66 * (x - s.left)) / (s.right - s.left)
  const curve =
    (v: Record<string, number>) =>
    (l: number): number => {
      const change =
        compressorCurve(l, v.threshold ?? 0, v.ratio ?? 1, v.knee ?? 0) +
        upwardCurve(l, v.upThreshold ?? -40, v.upRatio ?? 1) +
        (v.makeup ?? 0)
      const beside = (v.parallel ?? -72) > -72 ? 10 ** ((v.parallel ?? -72) / 20) : 0
      return l + 20 * Math.log10(10 ** (change / 20) + beside)
    }
  const now = live.now()
  const f = curve(now)
  drawCurve(pen, s, (x) => s.y(f(level(x))), { color: color('ink'), width: 2.5, fill: color('water') })
  drawCurve(pen, s, (x) => s.y(curve(live.base.value)(level(x))), { color: color('second'), width: 1 })
  const ends = live.ends.value
  if (ends)
    for (const v of [ends.low, ends.high])
      drawCurve(pen, s, (x) => s.y(curve(v)(level(x))), { color: color(`hue-${ends.hue}`), dash: [4, 4] })
  g.strokeStyle = color('second')
  g.setLineDash([2, 3])
  line(g, s.x(now.threshold ?? 0), s.top, s.x(now.threshold ?? 0), s.bottom)
  if ((now.upRatio ?? 1) > 1)
    line(g, s.x(now.upThreshold ?? -40), s.top, s.x(now.upThreshold ?? -40), s.bottom)
  g.setLineDash([])
  // the bend around the threshold
  const knee = now.knee ?? 0
  if (knee > 0.5) {
    g.fillStyle = color('shoal')
    g.globalAlpha = 0.6
    g.fillRect(
      s.x((now.threshold ?? 0) - knee / 2),
      s.bottom - 6,
      s.x((now.threshold ?? 0) + knee / 2) - s.x((now.threshold ?? 0) - knee / 2),
      6,
    )
    g.globalAlpha = 1
  }
  const input = Math.max(-60, Math.min(6, live.readout('input level')))
  const change = live.readout('gain change')
  g.fillStyle = color('magenta')
  g.beginPath()
  g.arc(s.x(input), Math.min(s.bottom, Math.max(s.top, s.y(input + change + (now.makeup ?? 0)))), 5, 0, 7)
  g.fill()
  past[(at = (at + 1) % past.length)] = change
  g.fillStyle = color('deep')
  const top = height - 40
  for (let i = 0; i < past.length; i++) {
    const x = s.left + ((s.right - s.left) * i) / past.length
    g.fillRect(
      x,
      top,
      (s.right - s.left) / past.length + 0.6,
      Math.min(38, -(past[(at + 1 + i) % past.length] ?? 0) * 2),
    )
  }
  g.fillStyle = color('second')
  g.textAlign = 'right'
  g.fillText(`${change.toFixed(1).replace('-', '−')} dB`, s.right, height - 6)
})
</script>

<template>
  <div class="relative h-full w-full">
    <canvas
      ref="canvas"
      class="h-full w-full"
      role="img"
      aria-label="Compressor curve with the current level, and gain reduction over time"
    />
    <LineHandle
      :owner="id"
      param="threshold"
      :from="-60"
      :to="6"
      :inset="{ top: 8, right: 6, bottom: 66, left: 34 }"
      across
    />
  </div>
</template>
