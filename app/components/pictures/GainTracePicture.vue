<script setup lang="ts">
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { line } from './profile'

/**
 * What a gate, limiter, transient or tremolo did to the level in the last seconds, newest at the right, with
 * the threshold where there is one.
 */
const props = defineProps<{ id: string }>()
const live = useLive(props.id)
const FRAMES = 300
/** Parameters that are drawn as lines, where the effect has them. */
const lines = ['threshold', 'ceiling'] as const
const change = new Float32Array(FRAMES)
const level = new Float32Array(FRAMES).fill(-120)
let at = 0

const canvas = useCanvas(({ g, width, height, color }) => {
  const type = live.effect.value?.type
  const up = type === 'transient'
  const db = type === 'tremolo' ? 20 * Math.log10(live.readout('level') + 1e-4) : live.readout('gain change')
  change[(at = (at + 1) % FRAMES)] = db
  level[at] = type === 'gate' ? live.readout('input level') : 20 * Math.log10(live.peak() + 1e-6)
  const bottom = height - 4
  const top = 22
  // one staff for all: +24 to −72 dB
  const y = (v: number): number => top + ((24 - Math.max(-72, Math.min(24, v))) / 96) * (bottom - top)
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = 'left'
  g.textBaseline = 'middle'
  for (const v of [12, 0, -12, -24, -36, -48, -60]) {
    g.strokeStyle = color('line')
    line(g, 34, Math.round(y(v)) + 0.5, width, Math.round(y(v)) + 0.5)
    g.fillStyle = color('second')
    g.fillText(`${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.abs(v)}`, 2, y(v))
  }
  const x = (i: number): number => 34 + (i / (FRAMES - 1)) * (width - 34)
  g.beginPath()
  g.moveTo(34, bottom)
  for (let i = 0; i < FRAMES; i++) g.lineTo(x(i), y(level[(at + 1 + i) % FRAMES] ?? -120))
  g.lineTo(width, bottom)
  g.fillStyle = color('water')
  g.fill()
  g.beginPath()
  for (let i = 0; i < FRAMES; i++) g.lineTo(x(i), y(change[(at + 1 + i) % FRAMES] ?? 0))
  g.strokeStyle = color('ink')
  g.lineWidth = 2
  g.stroke()
  const now = live.now()
  for (const k of lines) {
    if (now[k] === undefined) continue
    g.strokeStyle = color('magenta')
    g.setLineDash([4, 3])
    line(g, 34, y(now[k] ?? 0), width, y(now[k] ?? 0))
    g.setLineDash([])
    g.fillStyle = color('ink')
    g.fillText(k, 40, y(now[k] ?? 0) - 8)
  }
  g.fillStyle = color('ink')
  g.textAlign = 'right'
  g.fillText(`${db > 0 && up ? '+' : ''}${db.toFixed(1).replace('-', '−')} dB`, width - 4, 10)
})
</script>

<template>
  <div class="relative h-full w-full">
    <canvas ref="canvas" class="h-full w-full" role="img" aria-label="Level and gain over the last seconds" />
    <LineHandle
      v-for="param in lines"
      :key="param"
      :owner="id"
      :param="param"
      :from="24"
      :to="-72"
      :inset="{ top: 22, right: 0, bottom: 4, left: 34 }"
    />
  </div>
</template>
