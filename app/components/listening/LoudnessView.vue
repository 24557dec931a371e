<script setup lang="ts">
import { loudnessRange } from '@oleaje/core/analysis/loudness-range'
import { ref } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'

/**
 * Loudness over the last minute: momentary and short-term; with the integrated loudness, its range and the
 * highest true peak.
 */
const { host, monitoring, screen } = useSession()
const EACH_MS = 100
const COUNT = 600
const TOP = -5
const FLOOR = -55
const momentary = new Float32Array(COUNT).fill(-120)
const shortTerm = new Float32Array(COUNT).fill(-120)
const figures = ref('')
let at = 0
let measured = 0

const text = (v: number): string => (v < -80 ? '−∞' : v.toFixed(1).replace('-', '−'))

const canvas = useCanvas(({ g, width, height, color }, now) => {
  const t = host.telemetry
  if (monitoring.playing && !screen.frozen && now - measured >= EACH_MS) {
    measured = now
    momentary[at] = t.fixed('wet momentary')
    shortTerm[at] = t.fixed('wet short')
    at = (at + 1) % COUNT
    figures.value = [
      `momentary ${text(t.fixed('wet momentary'))}`,
      `short ${text(t.fixed('wet short'))}`,
      `whole ${text(t.fixed('wet integrated'))} LUFS`,
      `range ${loudnessRange([...shortTerm]).toFixed(1)} LU`,
      `highest ${text(20 * Math.log10(t.fixed('true peak') + 1e-9))} dBTP`,
    ].join(' · ')
  }
  const y = (lufs: number): number => Math.min(height, ((TOP - lufs) / (TOP - FLOOR)) * height)
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = 'left'
  for (let v = -10; v > FLOOR; v -= 10) {
    g.strokeStyle = color('line')
    g.strokeRect(0, Math.round(y(v)) + 0.5, width, 0)
    g.fillStyle = color('second')
    g.fillText(String(v).replace('-', '−'), 2, y(v) - 2)
  }
  for (const [of, name, wide] of [
    [momentary, 'deep', 1],
    [shortTerm, 'ink', 2],
  ] as const) {
    g.beginPath()
    for (let i = 0; i < COUNT; i++) g.lineTo((i / (COUNT - 1)) * width, y(of[(at + i) % COUNT] ?? -120))
    g.strokeStyle = color(name)
    g.lineWidth = wide
    g.stroke()
  }
})
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col">
    <p class="pb-1 text-tiny text-second">{{ figures || 'Measured during playback' }}</p>
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1"
      role="img"
      aria-label="Loudness of the processed sound over the last minute"
    />
  </div>
</template>
