<script setup lang="ts">
import { HIGHEST, HeldLevels, LOWEST, bandFrequency, bandLevels } from '@oleaje/core/analysis/band-levels'
import { Spectrum } from '@oleaje/core/analysis/spectrum'
import { noteName } from '@oleaje/core/units/text'
import { ref } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { useRings } from './useRings'

/**
 * Spectra of the dry and the processed sound over each other, with the highest that was there, smoothing,
 * tilt and a cursor.
 */
const { doc } = useSession()
const heard = useRings()
const SIZE = 4096
const BANDS = 220
/** The range of the picture in dB. */
const TOP = 6
const FLOOR = -90
/** Height in px of the line with frequencies. */
const AXIS = 16
const spectrum = new Spectrum(SIZE)
const levels = new Float32Array(BANDS)
const dry = new HeldLevels(BANDS)
const wet = new HeldLevels(BANDS)
const holds = ref(false)
const smoothing = ref(0)
const tilt = ref(3)
const cursor = ref<{ x: number; y: number } | null>(null)
const smoothings = [
  { value: 0, text: 'no smoothing' },
  { value: 1 / 24, text: '1/24 oct' },
  { value: 1 / 12, text: '1/12 oct' },
  { value: 1 / 6, text: '1/6 oct' },
  { value: 1 / 3, text: '1/3 oct' },
]
const tilts = [
  { value: 0, text: '0 dB/oct' },
  { value: 3, text: '3 dB/oct' },
  { value: 4.5, text: '4.5 dB/oct' },
]
let measured = 0

const canvas = useCanvas((pen, now) => {
  const { g, width, color } = pen
  // frequencies stand below the plot, so that no curve crosses them
  const height = pen.height - AXIS
  const y = (db: number): number => Math.min(height, ((TOP - db) / (TOP - FLOOR)) * height)
  const x = (hz: number): number => (Math.log(hz / LOWEST) / Math.log(HIGHEST / LOWEST)) * width
  const rate = doc.project?.sampleRate ?? 48_000
  if (now - measured > 40) {
    const fall = Math.min(60, 0.04 * (now - measured))
    measured = now
    const h = heard()
    const reading = { smoothing: smoothing.value, tilt: tilt.value }
    bandLevels(spectrum.ofRing(h.dry, h.end), rate, reading, levels)
    dry.take(levels, fall)
    bandLevels(spectrum.ofRing(h.left, h.end), rate, reading, levels)
    wet.take(levels, fall)
  }
  pen.still([], (s) => {
    s.strokeStyle = color('line')
    s.fillStyle = color('second')
    s.font = '12px "IBM Plex Sans Condensed"'
    s.textAlign = 'center'
    for (const [f, text] of [
      [50, '50'],
      [100, '100'],
      [200, '200'],
      [500, '500'],
      [1000, '1k'],
      [2000, '2k'],
      [5000, '5k'],
      [10_000, '10k'],
    ] as const) {
      s.globalAlpha = 0.5
      s.strokeRect(Math.round(x(f)) + 0.5, 0, 0, height)
      s.globalAlpha = 1
      if (width > 420 || /^(100|1k|10k)$/.test(text)) s.fillText(text, x(f), pen.height - 3)
    }
    s.textAlign = 'left'
    for (let db = 0; db > FLOOR; db -= 24) {
      s.globalAlpha = 0.5
      s.strokeRect(0, Math.round(y(db)) + 0.5, width, 0)
      s.globalAlpha = 1
      s.fillText(String(db).replace('-', '−'), 2, y(db) + 12)
    }
  })
  const path = (of: Float32Array): void => {
    g.beginPath()
    of.forEach((db, i) => g.lineTo(((i + 0.5) / BANDS) * width, y(db)))
  }
  path(wet.now)
  g.lineWidth = 1.6
  g.strokeStyle = color('ink')
  g.stroke()
  g.lineTo(width, height)
  g.lineTo(0, height)
  g.fillStyle = color('water')
  g.globalAlpha = 0.6
  g.fill()
  g.globalAlpha = 1
  path(dry.now)
  g.setLineDash([3, 3])
  g.strokeStyle = color('hue-3')
  g.lineWidth = 1.4
  g.stroke()
  g.setLineDash([])
  if (holds.value) {
    path(wet.highest)
    g.strokeStyle = color('magenta')
    g.lineWidth = 1
    g.stroke()
  }
  const c = cursor.value
  if (!c) return
  const band = Math.min(BANDS - 1, Math.max(0, Math.floor((c.x / width) * BANDS)))
  const hz = bandFrequency(band, BANDS)
  g.fillStyle = color('ink')
  g.fillRect(Math.round(c.x), 0, 1, height)
  const db = (v: number | undefined): string => (v ?? -140).toFixed(0).replace('-', '−')
  const text = `${hz < 1000 ? `${hz.toFixed(0)} Hz` : `${(hz / 1000).toFixed(2)} kHz`} ${noteName(hz)} · ${db(wet.now[band])} dB, dry ${db(dry.now[band])}`
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = c.x > width / 2 ? 'right' : 'left'
  const at = c.x + (c.x > width / 2 ? -5 : 5)
  const wide = g.measureText(text).width
  g.fillStyle = color('sheet')
  g.fillRect(c.x > width / 2 ? at - wide - 2 : at - 2, 0, wide + 4, 16)
  g.fillStyle = color('ink')
  g.fillText(text, at, 12)
})

function hold(): void {
  holds.value = !holds.value
  wet.forget()
}
function move(e: PointerEvent): void {
  cursor.value = { x: e.offsetX, y: e.offsetY }
}
</script>

<template>
  <div class="relative flex min-h-0 flex-1 flex-col">
    <PaneSettings>
      <button
        class="small-button"
        :aria-pressed="holds"
        title="Holds the peaks. Click twice to reset them."
        @click="hold"
      >
        Peak hold
      </button>
      <ChoiceField
        v-model="smoothing"
        label="Smoothing"
        hide-label
        tip="Averages over this part of an octave"
        :options="smoothings"
      />
      <ChoiceField
        v-model="tilt"
        label="Tilt"
        hide-label
        tip="Tilts the spectrum, so that music looks level"
        :options="tilts"
      />
    </PaneSettings>
    <p class="pointer-events-none absolute top-0 right-1 z-10 flex gap-2 text-tiny" aria-hidden="true">
      <span class="water-name" style="color: var(--hue-3)">dry</span><span class="water-name">processed</span>
    </p>
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1"
      role="img"
      aria-label="Spectra of the dry and the processed sound"
      @pointermove="move"
      @pointerleave="cursor = null"
    />
  </div>
</template>
