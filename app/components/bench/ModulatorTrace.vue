<script setup lang="ts">
import { DrawnShape, readPoints } from '@oleaje/core/dsp/drawn-shape'
import { firstCurve } from '@oleaje/core/modulators/curve'
import { smoothDrift } from '@oleaje/core/modulators/drift'
import { lfoWave } from '@oleaje/core/dsp/lfo-wave'
import { firstShape } from '@oleaje/core/modulators/lfo'
import { stepAt } from '@oleaje/core/modulators/steps'
import type { Modulator } from '@oleaje/core/project/schema'
import { itemsOf } from '@oleaje/core/project/targets'
import { noteText } from '@oleaje/core/units/text'
import { hashText, mix32 } from '@oleaje/core/dsp/random'
import { computed } from 'vue'
import { type Pen, useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'

/**
 * A modulator's own picture: what it will do next where that can be known (a wave, a row, a curve, an envelope, the notes
 * to come), what it did where it cannot (what it hears, what it is made of), and where it is.
 */
const props = defineProps<{ modulator: Modulator }>()
const { doc, bench, host } = useSession()
const past = new Float32Array(120).fill(NaN)
const second = new Float32Array(120).fill(NaN)
let at = 0
const track = computed(() => doc.project?.tracks.find((t) => t.modulators.some((m) => m.id === props.modulator.id)))
const row = computed(() => (track.value && props.modulator.type === 'steps' ? itemsOf({ kind: 'modulator', modulator: props.modulator, track: track.value }, 'steps') : []))
const drawn = computed(() => {
  const m = props.modulator
  const points = m.type === 'curve' ? readPoints(m.data?.points, 1024) : readPoints(m.data?.shape, 1)
  return new DrawnShape(points.length ? points : m.type === 'curve' ? firstCurve : firstShape)
})
const seed = computed(() => mix32((doc.project?.seed ?? 0) ^ hashText(props.modulator.id)))

const canvas = useCanvas((pen) => {
  const { g, width, height, color } = pen
  const m = props.modulator
  const t = host.telemetry
  const value = t.get(`mod:${m.id}`, NaN)
  const read = (name: string): number => t.get(`read:mod:${m.id}:${name}`, NaN)
  const live = (k: string, otherwise: number): number => m.params[k] ?? otherwise
  if (bench.playing) {
    past[at = (at + 1) % past.length] = value
    if (m.type === 'follower') second[at] = t.get(`mod:${m.id}.gate`, NaN)
    if (m.type === 'pitch-tracker') second[at] = t.get(`mod:${m.id}.confidence`, NaN)
  }
  const y = (v: number): number => height - 4 - v * (height - 8)
  g.strokeStyle = g.fillStyle = color(`hue-${m.hue}`)
  g.lineWidth = 1.6
  switch (m.type) {
    case 'lfo': {
      const shape = live('shape', 0)
      const random = shape === 5 || shape === 6
      const wave = (x: number): number => (shape === 7 ? drawn.value.at(x - Math.floor(x)) : lfoWave(shape, x, live('width', 0.5), seed.value))
      if (random) return trail(pen, y, value)
      course(pen, (x) => wave(x), y)
      return mark(pen, (read('phase') || 0) * width, Number.isNaN(value) ? y(wave(live('phase', 0))) : y(value))
    }
    case 'drift': {
      const turned = read('turned')
      if (live('kind', 0) !== 0 || Number.isNaN(turned)) return trail(pen, y, value)
      // smooth drift is known beforehand: the right half shows what comes
      course(pen, (x) => smoothDrift(seed.value, turned + (x - 0.5) * 4 * live('speed', 0.3)), y, 0.5)
      return mark(pen, width / 2, y(value))
    }
    case 'steps': {
      const now = read('step')
      row.value.forEach((s, i) => {
        const w = width / row.value.length
        g.globalAlpha = i === Math.round(now) ? 1 : 0.35
        const level = s.level ?? 0.5
        g.fillRect(i * w + 0.5, y(level), Math.max(1, w - 1), height - 2 - y(level))
      })
      g.globalAlpha = 1
      if (live('direction', 0) === 1 && row.value.length) g.fillRect(stepAt(0, row.value.length, 1, seed.value) * width / row.value.length, height - 2, 6, 2)
      return
    }
    case 'curve': {
      const length = live('length', 16)
      course(pen, (x) => drawn.value.at(x * length), y)
      const beat = read('beat')
      return mark(pen, (Number.isNaN(beat) ? 0 : beat / length) * width, y(Number.isNaN(value) ? drawn.value.at(0) : value))
    }
    case 'envelope': return envelopePicture(pen, live, y, read('stage'), read('way'), value)
    case 'follower': {
      const threshold = y(live('threshold', 0.25))
      g.globalAlpha = 0.5
      g.setLineDash([2, 3])
      g.beginPath()
      g.moveTo(0, threshold)
      g.lineTo(width, threshold)
      g.stroke()
      g.setLineDash([])
      g.globalAlpha = 0.25
      for (let i = 0; i < second.length; i++) if ((second[(at + 1 + i) % second.length] ?? 0) > 0.5) g.fillRect((width - 6) * i / (second.length - 1), height - 4, 1.5, 3)
      g.globalAlpha = 1
      return trail(pen, y, value)
    }
    case 'pitch-tracker': {
      const sure = second[at] ?? 0
      g.globalAlpha = 0.3 + 0.7 * (sure || 0)
      trail(pen, (v) => y(Math.max(0, Math.min(1, (v * 128 - 36) / 48))), value)
      g.globalAlpha = 1
      if (!Number.isNaN(value) && value > 0) write(pen, noteText(Math.round(value * 128)))
      return
    }
    case 'notes': return notesPicture(pen, value)
    case 'macro': case 'controller': {
      g.globalAlpha = 0.35
      g.fillRect(0, height / 2 - 5, width * (Number.isNaN(value) ? live('value', 0.5) : value), 10)
      g.globalAlpha = 1
      return mark(pen, (Number.isNaN(value) ? live('value', 0.5) : value) * (width - 8) + 4, height / 2)
    }
    default: return trail(pen, y, value)
  }
})

/** A known course over the width; what lies before `now` fainter. */
function course({ g, width }: Pen, f: (x: number) => number, y: (v: number) => number, now = 0): void {
  for (const [from, to, alpha] of [[0, now, 0.35], [now, 1, 1]] as const) {
    g.globalAlpha = alpha
    g.beginPath()
    for (let px = from * width; px <= to * width; px++) g.lineTo(px, y(f(px / width)))
    g.stroke()
  }
  g.globalAlpha = 1
}

/** What it did in the last two seconds, newest at the right. */
function trail(pen: Pen, y: (v: number) => number, value: number): void {
  const { g, width } = pen
  g.beginPath()
  for (let i = 0; i < past.length; i++) {
    const v = past[(at + 1 + i) % past.length] ?? NaN
    if (!Number.isNaN(v)) g.lineTo((width - 6) * i / (past.length - 1), y(v))
  }
  g.stroke()
  if (!Number.isNaN(value)) mark(pen, width - 6, y(value))
}

function mark({ g }: Pen, x: number, y: number): void {
  g.beginPath()
  g.arc(x, y, 3.5, 0, 7)
  g.fill()
}

function write({ g, width, color }: Pen, text: string): void {
  g.font = '12px "Barlow Semi Condensed"'
  g.fillStyle = color('ink')
  g.textAlign = 'right'
  g.textBaseline = 'top'
  g.fillText(text, width - 3, 2)
}

function envelopePicture(pen: Pen, live: (k: string, o: number) => number, y: (v: number) => number, stage: number, way: number, value: number): void {
  const { g, width } = pen
  const parts = [live('attack', 0.01), live('hold', 0), live('decay', 0.3), 0, live('release', 0.4)].map((s) => Math.sqrt(s))
  parts[3] = 0.25 * (Math.max(...parts) || 1)
  const whole = parts.reduce((a, b) => a + b, 0) || 1
  const ends: number[] = []
  let x = 0
  for (const p of parts) ends.push(x += p / whole * (width - 6))
  const sustain = live('sustain', 0.4)
  g.beginPath()
  g.moveTo(0, y(0))
  for (const [i, v] of [1, 1, sustain, sustain, 0].entries()) g.lineTo(ends[i] ?? 0, y(v))
  g.stroke()
  const k = Math.round(stage) - 1
  if (Number.isNaN(stage) || k < 0) mark(pen, 3, y(0))
  else mark(pen, (ends[k - 1] ?? 0) + ((ends[k] ?? 0) - (ends[k - 1] ?? 0)) * (k === 3 ? 0.5 : way), y(value))
}

/** The notes from a beat ago to three beats ahead, and the one followed now. */
function notesPicture(pen: Pen, value: number): void {
  const { g, width, height } = pen
  const line = track.value?.line
  const beat = host.telemetry.fixed('beat')
  const notes = line?.notes ?? []
  const low = Math.min(127, ...notes.map((n) => n.pitch)) - 2
  const high = Math.max(0, ...notes.map((n) => n.pitch)) + 2
  const span = 8
  for (const n of notes) {
    const length = line?.length || 1e9
    for (const round of line?.length ? [-1, 0, 1] : [0]) {
      const start = n.start + (Math.floor(beat / length) + round) * (line?.length ?? 0)
      const x = (start - beat + 2) / span * width
      const w = Math.max(2, n.length / span * width)
      if (x + w < 0 || x > width) continue
      g.globalAlpha = 0.3 + 0.7 * n.velocity
      g.fillRect(x, height - 4 - (n.pitch - low) / Math.max(1, high - low) * (height - 8), w - 1, 3)
    }
  }
  g.globalAlpha = 0.6
  g.fillRect(2 / span * width, 0, 1, height)
  g.globalAlpha = 1
  if (!Number.isNaN(value) && value > 0) write(pen, noteText(Math.round(value * 128)))
}
</script>

<template>
  <canvas ref="canvas" class="h-[34px] w-[88px] border border-line" aria-hidden="true" />
</template>
