<script setup lang="ts">
import { HIGHEST, LOWEST, bandLevels } from '@oleaje/core/analysis/band-levels'
import { Spectrum } from '@oleaje/core/analysis/spectrum'
import { paletteColor, useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { useRings } from './useRings'

/** The spectrum of the processed sound over the last seconds: time goes to the right, octaves upwards. */
const { doc, screen } = useSession()
const heard = useRings()
const SIZE = 4096
const BANDS = 160
const COLUMNS = 320
/** Time between two columns in ms, and levels from unseen to full. */
const EACH_MS = 40
const FLOOR = -84
const spectrum = new Spectrum(SIZE)
const levels = new Float32Array(BANDS)
const sheet = document.createElement('canvas')
sheet.width = COLUMNS
sheet.height = BANDS
const on = sheet.getContext('2d')
const column = on?.createImageData(1, BANDS)
let at = 0
let measured = 0

/** Red, green and blue of a colour of the palette. */
function rgb(name: string): [number, number, number] {
  const hex = paletteColor(name).slice(1)
  return [0, 2, 4].map((i) => Number.parseInt(hex.slice(i, i + 2), 16)) as [number, number, number]
}

const canvas = useCanvas(({ g, width, height, color }, now) => {
  if (on && column && !screen.frozen && now - measured >= EACH_MS) {
    measured = now
    const h = heard()
    bandLevels(
      spectrum.ofRing(h.left, h.end),
      doc.project?.sampleRate ?? 48_000,
      { smoothing: 0, tilt: 3 },
      levels,
    )
    const [paper, water, ink] = [rgb('sheet'), rgb('deep'), rgb('ink')]
    for (let b = 0; b < BANDS; b++) {
      const v = Math.min(1, Math.max(0, ((levels[b] ?? -140) - FLOOR) / -FLOOR))
      const [from, to, t] = v < 0.5 ? ([paper, water, 2 * v] as const) : ([water, ink, 2 * v - 1] as const)
      const k = 4 * (BANDS - 1 - b)
      for (let c = 0; c < 3; c++) column.data[k + c] = (from[c] ?? 0) + t * ((to[c] ?? 0) - (from[c] ?? 0))
      column.data[k + 3] = 255
    }
    on.putImageData(column, at, 0)
    at = (at + 1) % COLUMNS
  }
  g.imageSmoothingEnabled = false
  // the oldest column comes first
  const first = ((COLUMNS - at) / COLUMNS) * width
  g.drawImage(sheet, at, 0, COLUMNS - at, BANDS, 0, 0, first, height)
  if (at > 0) g.drawImage(sheet, 0, 0, at, BANDS, first, 0, width - first, height)
  g.fillStyle = color('second')
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = 'left'
  for (const [f, text] of [
    [100, '100'],
    [1000, '1k'],
    [10_000, '10k'],
  ] as const)
    g.fillText(text, 2, height - (Math.log(f / LOWEST) / Math.log(HIGHEST / LOWEST)) * height + 4)
})
</script>

<template>
  <div class="flex min-h-0 flex-1 flex-col">
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1"
      role="img"
      aria-label="Spectrogram of the processed sound"
    />
  </div>
</template>
