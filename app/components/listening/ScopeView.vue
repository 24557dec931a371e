<script setup lang="ts">
import { beatBefore, crossingBefore } from '@oleaje/core/analysis/scope-trigger'
import { RING_FRAMES } from '@oleaje/core/engine/telemetry'
import { ref } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'
import { type HeardRing, useRings } from './useRings'

/**
 * The wave, standing still: it begins at a crossing, at the song's beat or with the traced modulator; dry
 * beneath, the modulator above.
 */
const { doc, selection } = useSession()
const heard = useRings()
type Start = 'crossing' | 'beat' | 'modulator' | 'free'
const start = ref<Start>('crossing')
const starts = [
  { value: 'crossing', text: 'zero crossing' },
  { value: 'beat', text: 'beat' },
  { value: 'modulator', text: 'modulator' },
  { value: 'free', text: 'free-running' },
] as const
const ms = ref(20)
const times = [5, 10, 20, 50, 100, 250].map((value) => ({ value, text: `${value} ms` }))
const scale = ref(1)
const scales = [
  { value: 0.125, text: '± 1/8' },
  { value: 0.25, text: '± 1/4' },
  { value: 0.5, text: '± 1/2' },
  { value: 1, text: '± 1' },
  { value: 2, text: '± 2' },
]
const showsDry = ref(true)
/** Whether something has gone over since it was last looked at. */
const clipped = ref(false)

const FRAMES = 1200
const shown = {
  left: new Float32Array(FRAMES),
  dry: new Float32Array(FRAMES),
  modulator: new Float32Array(FRAMES),
}
/** Whether each place of the picture went over, kept until pressed. */
const over = new Uint8Array(FRAMES)
/** Where the ring was looked at last. */
let seen = 0

/** Looks at every frame that came since the last time, those between two places of the picture too. */
function watchPeaks(h: HeardRing): void {
  for (let k = seen; k !== h.end; k = (k + 1) % RING_FRAMES)
    if (Math.abs(h.left[k] ?? 0) > 1 || Math.abs(h.right[k] ?? 0) > 1) clipped.value = true
  seen = h.end
}

/** Takes a new picture where its start is in the ring; otherwise the last one stays. */
function take(): void {
  const rate = doc.project?.sampleRate ?? 48_000
  const h = heard()
  watchPeaks(h)
  const frames = (ms.value / 1000) * rate
  const least = frames + 2
  let back: number | null = least
  if (start.value === 'crossing') back = crossingBefore(h.left, h.end, least, 0, 0.02) ?? least
  else if (start.value === 'modulator') back = crossingBefore(h.modulator, h.end, least, 0.5, 0.05)
  else if (start.value === 'beat')
    back = beatBefore(h.beat, (60 / (doc.project?.tempo ?? 120)) * rate, least, RING_FRAMES)
  if (back === null) return
  const read = (ring: Float32Array, at: number): number => {
    const place = h.end - at + 2 * RING_FRAMES
    const k = Math.floor(place)
    const f = place - k
    return (ring[k % RING_FRAMES] ?? 0) * (1 - f) + (ring[(k + 1) % RING_FRAMES] ?? 0) * f
  }
  for (let i = 0; i < FRAMES; i++) {
    const at = back - (i / FRAMES) * frames
    shown.left[i] = read(h.left, at)
    shown.dry[i] = read(h.dry, at)
    shown.modulator[i] = read(h.modulator, at)
    // held only while something is shown
    if (clipped.value && Math.abs(shown.left[i] ?? 0) > 1) over[i] = 1
  }
}

const canvas = useCanvas((pen) => {
  const { g, width, height, color } = pen
  take()
  const middle = height / 2
  const y = (v: number): number => middle - (v / scale.value) * (middle - 3)
  g.strokeStyle = color('line')
  g.lineWidth = 1
  for (let k = 0; k <= 10; k++) g.strokeRect(Math.round((k / 10) * width) + 0.5, 0, 0, height)
  g.strokeRect(0, Math.round(middle) + 0.5, width, 0)
  g.strokeStyle = color('magenta')
  g.setLineDash([6, 4])
  for (const v of [1, -1]) if (Math.abs(v) <= scale.value) g.strokeRect(0, Math.round(y(v)) + 0.5, width, 0)
  g.setLineDash([])
  const line = (of: Float32Array, stroke: string, place: (v: number) => number, wide: number): void => {
    g.strokeStyle = stroke
    g.lineWidth = wide
    g.beginPath()
    for (let i = 0; i < FRAMES; i++) g.lineTo((i / FRAMES) * width, place(of[i] ?? 0))
    g.stroke()
  }
  if (showsDry.value) line(shown.dry, color('hue-3'), y, 1)
  line(shown.left, color('ink'), y, 1.6)
  const hue = doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === selection.traced)?.hue
  if (hue !== undefined) line(shown.modulator, color(`hue-${hue}`), (v) => height - 3 - v * (height - 6), 1.4)
  g.fillStyle = color('magenta')
  for (let i = 0; i < FRAMES; i++)
    if (over[i]) g.fillRect((i / FRAMES) * width - 0.5, 0, Math.max(1, width / FRAMES), 5)
})

function forget(): void {
  over.fill(0)
  clipped.value = false
}
</script>

<template>
  <div class="relative flex min-h-0 flex-1 flex-col">
    <PaneSettings>
      <ChoiceField
        v-model="start"
        label="Trigger"
        hide-label
        tip="Chooses what the waveform starts at"
        :options="starts"
      />
      <ChoiceField v-model="ms" label="Time" hide-label tip="Sets the time that is shown" :options="times" />
      <ChoiceField
        v-model="scale"
        label="Level"
        hide-label
        tip="Sets the level range that is shown"
        :options="scales"
      />
      <button
        class="small-button"
        :aria-pressed="showsDry"
        title="Shows the dry sound behind"
        @click="showsDry = !showsDry"
      >
        Dry
      </button>
    </PaneSettings>
    <button
      v-if="clipped"
      class="small-button absolute top-0 left-0 z-10 text-magenta"
      title="Clipped. Click to clear."
      @click="forget"
    >
      Clipped
    </button>
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1"
      role="img"
      aria-label="Waveform of the processed sound"
    />
  </div>
</template>
