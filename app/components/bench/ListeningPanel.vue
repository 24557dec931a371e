<script setup lang="ts">
import { Spectrum } from '@oleaje/core/analysis/spectrum'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { RING_FRAMES } from '@oleaje/core/engine/telemetry'
import { computed, ref, watch } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useSession } from '../../composables/useSession'

/** What comes in and what comes out of the selected track: spectra over each other, or the wave with a modulator over it. */
const { doc, bench, host } = useSession()
const view = ref<'spectra' | 'scope' | 'harmonics'>('spectra')
/** Frequency of the test tone that the selected track plays; none for noise and for anything else. */
const tone = computed(() => {
  const source = bench.track?.source
  const definition = sourceDefinition(source?.type ?? '')
  return definition?.pitch?.((k) => source?.params[k] ?? definition.params[k]?.default ?? 0) ?? null
})
watch(tone, (hz) => { if (hz === null && view.value === 'harmonics') view.value = 'spectra' })
const figures = ref<HTMLElement | null>(null)
const size = 4096
const spectrum = new Spectrum(size)
const bands = 110
const dry = new Float32Array(bands).fill(-100)
const wet = new Float32Array(bands).fill(-100)
let measured = 0
let told = 0
let correlation = 0

/** Levels of logarithmic bands from 30 Hz to 18 kHz; falls gently so that one can read it. */
function gather(magnitude: Float64Array, into: Float32Array, rate: number): void {
  for (let b = 0; b < bands; b++) {
    const lo = 30 * 600 ** (b / bands) / rate * size
    const hi = Math.max(lo + 1, 30 * 600 ** ((b + 1) / bands) / rate * size)
    let most = 0
    for (let i = Math.floor(lo); i < hi && i < magnitude.length; i++) most = Math.max(most, magnitude[i] ?? 0)
    // tilted by 3 dB an octave, so that music lies level
    const db = 20 * Math.log10(most + 1e-6) + 3 * Math.log2(lo * rate / size / 1000)
    into[b] = Math.max(db, (into[b] ?? -100) - 1.5)
  }
}

const canvas = useCanvas(({ g, width, height, color }, now) => {
  const { rings, head } = host.telemetry.memory
  const rate = doc.project?.sampleRate ?? 48_000
  const end = head[0] ?? 0
  const [a, l, r, m] = rings as [Float32Array, Float32Array, Float32Array, Float32Array]
  if (view.value === 'spectra') {
    if (now - measured > 40) {
      measured = now
      gather(spectrum.ofRing(a, end), dry, rate)
      gather(spectrum.ofRing(l, end), wet, rate)
    }
    const y = (db: number): number => Math.min(height, height - (db + 84) / 84 * height)
    const path = (levels: Float32Array): void => {
      g.beginPath()
      levels.forEach((db, i) => g.lineTo(i / (bands - 1) * width, y(db)))
    }
    path(wet)
    g.lineWidth = 1.8
    g.strokeStyle = color('ink')
    g.stroke()
    g.lineTo(width, height)
    g.lineTo(0, height)
    g.fillStyle = color('water')
    g.globalAlpha = 0.7
    g.fill()
    g.globalAlpha = 1
    path(dry)
    g.setLineDash([3, 3])
    g.strokeStyle = color('hue-3')
    g.lineWidth = 1.4
    g.stroke()
    g.setLineDash([])
    g.fillStyle = color('second')
    g.font = '12px "Barlow Semi Condensed"'
    g.textAlign = 'center'
    g.textBaseline = 'alphabetic'
    for (const [f, text] of [[100, '100'], [1000, '1k'], [10_000, '10k']] as const) g.fillText(text, Math.log(f / 30) / Math.log(600) * width, height - 3)
  } else if (view.value === 'harmonics') drawHarmonics(g, width, height, color, l, end, rate)
  else {
    const frames = 2400
    const x = (i: number): number => i / frames * width
    const draw = (ring: Float32Array, stroke: string, map: (v: number) => number): void => {
      g.strokeStyle = stroke
      g.lineWidth = 1.4
      g.beginPath()
      for (let i = 0; i < frames; i += 3) g.lineTo(x(i), map(ring[(end - frames + i + RING_FRAMES) % RING_FRAMES] ?? 0))
      g.stroke()
    }
    draw(l, color('ink'), (v) => height / 2 - v * height / 2)
    const hue = doc.project?.tracks.flatMap((t) => t.modulators).find((x2) => x2.id === bench.traced)?.hue
    if (hue !== undefined) draw(m, color(`hue-${hue}`), (v) => height - 3 - v * (height - 6))
  }
  g.fillStyle = color('second')
  g.font = '12px "Barlow Semi Condensed"'
  g.textAlign = 'right'
  g.textBaseline = 'top'
  if (view.value !== 'harmonics') g.fillText(`correlation ${correlation.toFixed(2).replace('-', '−')}`, width - 2, 2)
  if (figures.value && now - told > 250) {
    told = now
    const t = host.telemetry
    let sum = 0
    let ll = 0
    let rr = 0
    for (let i = 0; i < RING_FRAMES; i += 4) {
      const x = l[i] ?? 0
      const y = r[i] ?? 0
      sum += x * y
      ll += x * x
      rr += y * y
    }
    correlation = sum / Math.sqrt(ll * rr + 1e-12)
    const text = (v: number): string => (v < -80 ? '−∞' : v.toFixed(1).replace('-', '−'))
    const peak = t.fixed('true peak')
    figures.value.textContent = `${text(t.fixed('wet momentary'))} LUFS · ${text(20 * Math.log10(peak + 1e-9))} dBTP`
    figures.value.style.color = peak > 1 ? 'var(--magenta)' : ''
  }
})
const harmonics = new Spectrum(16_384)
const COUNT = 15

/** Levels of the first harmonics of the test tone against its fundamental, with those of even number lighter. */
function drawHarmonics(g: CanvasRenderingContext2D, width: number, height: number, color: (name: string) => string, ring: Float32Array, end: number, rate: number): void {
  const hz = tone.value
  if (hz === null) return
  const magnitude = harmonics.ofRing(ring, end)
  const level = (n: number): number => {
    const at = n * hz / rate * 16_384
    let power = 0
    for (let k = Math.round(at) - 4; k <= Math.round(at) + 4; k++) power += (magnitude[k] ?? 0) ** 2
    return Math.sqrt(power)
  }
  const first = level(1) + 1e-12
  const bar = (width - 8) / COUNT
  g.font = '12px "Barlow Semi Condensed"'
  g.textAlign = 'center'
  g.textBaseline = 'alphabetic'
  for (let n = 1; n <= COUNT && n * hz < rate / 2; n++) {
    const db = Math.max(-100, 20 * Math.log10(level(n) / first + 1e-12))
    const top = 28 + -db / 100 * (height - 46)
    g.fillStyle = color(n % 2 ? 'deep' : 'water')
    g.fillRect(4 + (n - 1) * bar + 1, top, bar - 2, height - 16 - top)
    g.fillStyle = color('ink')
    if (n % 2 || bar > 22) g.fillText(String(n), 4 + (n - 0.5) * bar, height - 3)
    if (db > -99 && n > 1 && db > -60) g.fillText(db.toFixed(0).replace('-', '−'), 4 + (n - 0.5) * bar, Math.max(24, top - 2))
  }
}
</script>

<template>
  <section class="flex h-full flex-col p-2" aria-label="Listening">
    <header class="flex items-center justify-between gap-2 text-[13px]">
      <div class="flex gap-2 whitespace-nowrap" role="group" aria-label="What is shown">
        <button :aria-pressed="view === 'spectra'" :class="view === 'spectra' ? 'border-b-2 border-magenta' : 'text-second'" title="Spectra of dry and processed sound" @click="view = 'spectra'"><span class="water-name" style="color: var(--hue-3)">dry</span> <span class="water-name">processed</span></button>
        <button :aria-pressed="view === 'scope'" :class="view === 'scope' ? 'border-b-2 border-magenta' : 'text-second'" title="The last 50 ms, with the traced modulator over them" @click="view = 'scope'">scope</button>
        <button v-if="tone !== null" :aria-pressed="view === 'harmonics'" :class="view === 'harmonics' ? 'border-b-2 border-magenta' : 'text-second'" title="Harmonics of the test tone against its fundamental, in dB" @click="view = 'harmonics'">harmonics</button>
      </div>
      <span v-show="view !== 'harmonics'" ref="figures" class="whitespace-nowrap text-[12px] text-second" title="Momentary loudness, highest true peak since Play, correlation of left and right" />
    </header>
    <canvas ref="canvas" class="min-h-0 w-full flex-1" role="img" aria-label="Spectra of the dry and the processed sound" />
  </section>
</template>
