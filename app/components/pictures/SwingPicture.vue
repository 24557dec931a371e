<script setup lang="ts">
import { swingBlock } from '@oleaje/core/dsp/swing'
import { together } from '@oleaje/core/project/edit'
import { setParam } from '@oleaje/core/project/value-edits'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useLive } from '../../composables/useLive'
import { useSession } from '../../composables/useSession'
import { drawCurve, drawSheet, frequencyAt, frequencyAxis } from './profile'

/**
 * The times of a chorus or flanger over one cycle, and beneath the comb that they make now. Drag across
 * nothing, up and down for the centre, with Shift for the depth.
 */
const props = defineProps<{ id: string }>()
const { doc } = useSession()
const hand = useGesture()
const live = useLive(props.id)
const wave = new Float64Array(128)
let phase = 0
let before = 0

const canvas = useCanvas((pen, now) => {
  const { g, color, height } = pen
  const v = live.now()
  const isFlanger = live.effect.value?.type === 'flanger'
  const rate = (v.sync ?? 0) >= 0.5 ? (doc.project?.tempo ?? 120) / 60 / (v.length ?? 1) : (v.rate ?? 0.5)
  phase = (phase + rate * Math.min(0.2, (now - before) / 1000)) % 1
  before = now
  const n = isFlanger ? 2 : Math.round(v.voices ?? 4)
  const centre = isFlanger ? (v.time ?? 0) + 0.005 * (v.place ?? 0) : (v.time ?? 0.014)
  const depth = isFlanger
    ? (v.depth ?? 0)
    : (v.by ?? 0) >= 0.5
      ? (v.reach ?? 0)
      : (2 ** ((v.cents ?? 0) / 12) - 1) / (2 * Math.PI * rate)
  const reach = Math.min(isFlanger ? 1 : centre, depth)
  const most = Math.max(isFlanger ? 0.006 : 0.02, (centre + reach) * 1.15)
  const least = isFlanger ? Math.min(0, (centre - reach) * 1.15) - 0.001 : 0
  const upper = { ...pen, height: Math.round(height * 0.58) }
  const s = drawSheet(
    upper,
    {
      min: 0,
      max: 1,
      marks: [
        [0, '0'],
        [0.5, 'half a turn'],
        [1, '1'],
      ],
    },
    {
      min: least,
      max: most,
      marks: [least, 0, most / 2, most]
        .filter((t, i, all) => all.indexOf(t) === i)
        .map((t) => [t, `${(t * 1000).toFixed(1).replace('-', '−')}`] as const),
    },
  )
  const times: number[] = []
  for (let k = 0; k < n; k++) {
    const offset = isFlanger
      ? -(k * (v.stereo ?? 0))
      : (v.pairs ?? 1) >= 0.5
        ? 0.5 * (k & 1) + (k >> 1) / n
        : k / n
    for (let i = 0; i < 128; i++) wave[i] = i / 127 + offset + (v.phase ?? 0)
    swingBlock(v.shape ?? 0, wave)
    g.strokeStyle = k === 0 ? color('ink') : color('deep')
    g.lineWidth = k === 0 ? 2 : 1.2
    g.beginPath()
    for (let i = 0; i < 128; i++) g.lineTo(s.x(i / 127), s.y(centre + reach * (wave[i] ?? 0)))
    g.stroke()
    const t = centre + reach * (wave[Math.floor(phase * 127)] ?? 0)
    times.push(t)
    g.fillStyle = color('magenta')
    g.beginPath()
    g.arc(s.x(phase), s.y(t), 3.5, 0, 7)
    g.fill()
  }
  g.save()
  g.translate(0, Math.round(height * 0.58))
  const lower = { ...pen, height: height - Math.round(height * 0.58) }
  const c = drawSheet(lower, frequencyAxis, {
    min: -24,
    max: 12,
    marks: [
      [0, '0'],
      [-20, '−20'],
    ],
  })
  const wet = isFlanger ? (v.mix ?? 0.5) : (v.wet ?? 1)
  const sign = (v.polarity ?? 0) >= 0.5 ? -1 : 1
  drawCurve(
    lower,
    c,
    (x) => {
      const hz = frequencyAt(c, x, 20, 20_000)
      let re = 0
      let im = 0
      for (const t of isFlanger ? times.slice(0, 1) : times) {
        re += Math.cos(2 * Math.PI * hz * t)
        im -= Math.sin(2 * Math.PI * hz * t)
      }
      const share = isFlanger ? 1 : 1 / Math.sqrt(n)
      re = 1 - wet + wet * sign * share * re
      im = wet * sign * share * im
      return c.y(Math.max(-24, 10 * Math.log10(re * re + im * im + 1e-6)))
    },
    { color: color('ink'), width: 1.5, fill: color('water') },
  )
  g.restore()
})

function press(e: PointerEvent): void {
  const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const v = live.base.value
  const isFlanger = live.effect.value?.type === 'flanger'
  const depth = isFlanger ? 'depth' : (v.by ?? 0) >= 0.5 ? 'reach' : 'cents'
  const fromTime = v.time ?? 0,
    fromDepth = v[depth] ?? 0
  const scale = isFlanger ? 0.012 : 0.04
  hand.drag(e, 'Drag the swing', (m) => {
    const dy = (e.clientY - m.clientY) / box.height,
      dx = (m.clientX - e.clientX) / box.width
    hand.edit(
      'Drag',
      together(
        setParam(props.id, 'time', fromTime + dy * scale),
        setParam(props.id, depth, Math.max(0, fromDepth + dx * (depth === 'cents' ? 1 : scale))),
      ),
    )
  })
}
</script>

<template>
  <canvas
    ref="canvas"
    class="h-full w-full touch-none"
    role="img"
    aria-label="Delay of each voice over one cycle, and the resulting comb. Drag up or down for the centre, sideways for the depth."
    @pointerdown="press"
  />
</template>
