<script setup lang="ts">
import { lfoValue } from '@oleaje/core/modulators/lfo'
import type { Modulator } from '@oleaje/core/project/schema'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'

/** What a modulator did in the last seconds, and where it is: newest at the right. An LFO at rest shows its wave. */
const props = defineProps<{ modulator: Modulator }>()
const { bench, host } = useSession()
const past = new Float32Array(120).fill(NaN)
let at = 0

const canvas = useCanvas(({ g, width, height, color }) => {
  const m = props.modulator
  const value = host.telemetry.get(`mod:${m.id}`, NaN)
  if (bench.playing) past[at = (at + 1) % past.length] = value
  const y = (v: number): number => height - 4 - v * (height - 8)
  g.strokeStyle = color(`hue-${m.hue}`)
  g.lineWidth = 1.6
  g.beginPath()
  if (Number.isNaN(past[(at + 1) % past.length] ?? NaN) && m.type === 'lfo' && !bench.playing) {
    for (let x = 0; x < width; x++) g.lineTo(x, y(lfoValue(m.params.shape ?? 0, 2 * x / width + (m.params.phase ?? 0), m.params.width ?? 0.5, 7)))
  } else {
    for (let i = 0; i < past.length; i++) {
      const v = past[(at + 1 + i) % past.length] ?? NaN
      if (!Number.isNaN(v)) g.lineTo((width - 6) * i / (past.length - 1), y(v))
    }
  }
  g.stroke()
  if (!Number.isNaN(value)) {
    g.fillStyle = color(`hue-${m.hue}`)
    g.beginPath()
    g.arc(width - 6, y(value), 3.5, 0, 7)
    g.fill()
  }
})
</script>

<template>
  <canvas ref="canvas" class="h-[34px] w-[88px] border border-line" aria-hidden="true" />
</template>
