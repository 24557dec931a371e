<script setup lang="ts">
import { ResponseMeter } from '@oleaje/core/analysis/measured-response'
import { Spectrum } from '@oleaje/core/analysis/spectrum'
import { effectDefinition } from '@oleaje/core/effects/index'
import { poseAt, readPoses } from '@oleaje/core/effects/eq-poses'
import { laneItems } from '@oleaje/core/units/lane'
import { fromNormalized, toNormalized } from '@oleaje/core/units/scale'
import { setData, setParam } from '@oleaje/core/project/value-edits'
import { pathOf } from '@oleaje/core/project/param-path'
import { computed, ref } from 'vue'
import { useCanvas } from '../../composables/useCanvas'
import { useLive } from '../../composables/useLive'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'
import type { ResponseMarks } from './response-marks'
import { type Sheet, drawCurve, drawSheet, frequencyAt, frequencyAxis, phaseAxis } from './profile'

/**
 * What a linear effect does to each frequency, measured on its own processor: magnitude, phase or group
 * delay, over the live spectrum; base thin, live bold, the ends of the motion dashed. Bands and tuned
 * frequencies are dragged on it.
 */
const props = defineProps<{ id: string; marks?: ResponseMarks }>()
const { doc, host, selection } = useSession()
const hand = useGesture()
const live = useLive(props.id)
const view = ref<'magnitude' | 'phase' | 'delay'>('magnitude')
const rate = doc.project?.sampleRate ?? 48_000
const definition = effectDefinition(live.effect.value?.type ?? '')
const meter = definition && new ResponseMeter(definition, rate)
const SIZE = 4096
const spectrum = new Spectrum(SIZE)
let sheet: Sheet | null = null

type Values = Readonly<Record<string, number>>
const bands = computed(() =>
  definition?.lanes?.bands ? laneItems(definition.lanes.bands, live.effect.value?.lanes?.bands) : [],
)
const poses = computed(() => readPoses(live.effect.value?.data?.poses))
const posed = new Float64Array(3)
/** Where a band stands on the picture: in its pose while there are poses, else where its gauges are. */
function bandPlace(i: number): { frequency: number; gain: number } {
  if (poses.value.length >= 2 && poseAt(poses.value, live.base.value.travel ?? 0, i, posed))
    return { frequency: posed[0] ?? 1000, gain: posed[1] ?? 0 }
  return { frequency: bandParam(i, 'frequency'), gain: bandParam(i, 'gain') }
}
/** The pose that Travel is nearest to: the one that is worked on. */
const nearPose = (): number =>
  poses.value.reduce(
    (best, p, i) =>
      Math.abs(p.at - (live.base.value.travel ?? 0)) <
      Math.abs((poses.value[best]?.at ?? 9) - (live.base.value.travel ?? 0))
        ? i
        : best,
    0,
  )
const bandParam = (i: number, param: string): number =>
  bands.value[i]?.[param] ?? definition?.lanes?.bands?.params[param]?.default ?? 0

/** Lanes as they are now, from the engine. */
function liveLanes(): Record<string, Record<string, number>[]> | undefined {
  if (!definition?.lanes) return undefined
  return Object.fromEntries(
    Object.entries(definition.lanes).map(([lane, spec]) => [
      lane,
      laneItems(spec, live.effect.value?.lanes?.[lane]).map((item, index) =>
        Object.fromEntries(
          Object.entries(spec.params).map(([param, p]) => {
            const key = `live:${props.id}.${pathOf({ lane, index, param })}`
            return [
              param,
              host.telemetry.has(key)
                ? fromNormalized(p, host.telemetry.get(key, toNormalized(p, item[param] ?? p.default)))
                : (item[param] ?? p.default),
            ]
          }),
        ),
      ),
    ]),
  )
}

type Response = ReturnType<ResponseMeter['measure']>
const kept: {
  base?: Response
  low?: Response
  high?: Response
  now?: Response
  baseFor: unknown
  endsFor: unknown
} = {
  baseFor: null,
  endsFor: null,
}

let measured = 0

const canvas = useCanvas((pen, now) => {
  if (!meter) return
  const { g, color } = pen
  const axis =
    view.value === 'magnitude'
      ? {
          min: -48,
          max: 30,
          marks: [
            [24, '+24'],
            [12, '12'],
            [0, '0'],
            [-12, '−12'],
            [-24, '−24'],
            [-36, '−36'],
          ] as const,
        }
      : view.value === 'phase'
        ? phaseAxis
        : {
            min: 0,
            max: 40,
            marks: [
              [0, '0 ms'],
              [10, '10'],
              [20, '20'],
              [30, '30'],
              [40, '40'],
            ] as const,
          }
  sheet = drawSheet(pen, frequencyAxis, axis)
  const s = sheet
  const effect = live.effect.value
  const data = effect?.data ?? {}
  if (view.value === 'magnitude') {
    const levels = spectrum.ofRing(
      host.telemetry.memory.rings[1] as Float32Array,
      host.telemetry.memory.head[0] ?? 0,
    )
    g.globalAlpha = 0.5
    drawCurve(
      pen,
      s,
      (x) => {
        const f = frequencyAt(s, x, 20, 20_000)
        let most = 0
        for (let i = Math.floor((f / rate) * SIZE); i <= ((f * 1.04) / rate) * SIZE && i < levels.length; i++)
          most = Math.max(most, levels[i] ?? 0)
        return s.y(20 * Math.log10(most + 1e-6) + 3 * Math.log2(f / 1000) + 14)
      },
      { color: color('shoal'), width: 1, fill: color('shoal') },
    )
    g.globalAlpha = 1
  }
  const value = (r: Response, k: number): number =>
    view.value === 'magnitude'
      ? 20 * Math.log10((r.magnitude[k] ?? 0) + 1e-6)
      : view.value === 'phase'
        ? ((r.phase[k] ?? 0) * 180) / Math.PI
        : (r.groupDelay[k] ?? 0) * 1000
  const curve =
    (r: Response) =>
    (x: number): number => {
      const at = (frequencyAt(s, x, 20, 20_000) / rate) * r.frames
      const k = Math.floor(at)
      const a = value(r, k)
      const b = value(r, k + 1)
      return s.y(Math.abs(b - a) > 180 ? a : a + (b - a) * (at - k))
    }
  if (kept.baseFor !== effect || !kept.base) {
    kept.baseFor = effect
    kept.base = meter.measure(live.base.value, effect?.lanes, data, kept.base)
  }
  if (!kept.now || now - measured > 32) {
    measured = now
    kept.now = meter.measure(live.now(), liveLanes(), data, kept.now)
  }
  drawCurve(pen, s, curve(kept.now), {
    color: color('ink'),
    width: 2.5,
    fill: view.value === 'magnitude' ? color('water') : undefined,
  })
  drawCurve(pen, s, curve(kept.base), { color: color('second'), width: 1 })
  const ends = live.ends.value
  if (ends) {
    if (kept.endsFor !== ends) {
      kept.endsFor = ends
      kept.low = meter.measure(ends.low as Values, effect?.lanes, data, kept.low)
      kept.high = meter.measure(ends.high as Values, effect?.lanes, data, kept.high)
    }
    for (const r of [kept.low, kept.high])
      if (r) drawCurve(pen, s, curve(r), { color: color(`hue-${ends.hue}`), width: 1.2, dash: [4, 4] })
  }
  if (view.value !== 'magnitude') return
  g.font = '12px "IBM Plex Sans Condensed"'
  g.textAlign = 'center'
  g.textBaseline = 'middle'
  // the poses beside the one that is heard, as ghosts
  if (poses.value.length >= 2) {
    const near = nearPose()
    g.strokeStyle = color('second')
    g.lineWidth = 1
    for (const p of [poses.value[near - 1], poses.value[near + 1]]) {
      for (const b of p?.bands ?? []) {
        g.beginPath()
        g.arc(s.x(b.frequency), s.y(b.gain), 5, 0, 7)
        g.stroke()
      }
    }
  }
  bands.value.forEach((_, i) => {
    const place = bandPlace(i)
    const x = s.x(place.frequency)
    const y = s.y(bandParam(i, 'kind') < 3 ? place.gain : 0)
    g.beginPath()
    g.arc(x, y, 9, 0, 7)
    g.fillStyle = bandParam(i, 'on') >= 0.5 ? color('ink') : color('line')
    g.fill()
    g.fillStyle = color('paper')
    g.fillText(String(i + 1), x, y + 0.5)
  })
  g.fillStyle = color('ink')
  g.textBaseline = 'top'
  props.marks?.({ g, sheet: s, color, values: live.now(), lanes: liveLanes(), readout: live.readout })
})

/** Drags the band or the frequency that is nearest. */
function press(e: PointerEvent): void {
  const s = sheet
  const el = canvas.value
  if (!s || !el || view.value !== 'magnitude') return
  const box = el.getBoundingClientRect()
  const x = e.clientX - box.left
  let path = ''
  let height = ''
  if (bands.value.length) {
    const i = bands.value.reduce(
      (best, _, k) =>
        Math.abs(s.x(bandPlace(k).frequency) - x) < Math.abs(s.x(bandPlace(best).frequency) - x) ? k : best,
      0,
    )
    path = pathOf({ lane: 'bands', index: i, param: 'frequency' })
    height = bandParam(i, 'kind') < 3 ? pathOf({ lane: 'bands', index: i, param: 'gain' }) : ''
    selection.shownItem = i
  } else if (live.specs.value.frequency) path = 'frequency'
  if (!path) return
  const at = nearPose()
  const index = selection.shownItem
  const move = (m: PointerEvent): void => {
    if (bands.value.length && poses.value.length >= 2) {
      const frequency = Math.min(20_000, Math.max(20, frequencyAt(s, m.clientX - box.left, 20, 20_000)))
      const gain = Math.min(24, Math.max(-24, 30 - ((m.clientY - box.top - s.top) / (s.bottom - s.top)) * 78))
      hand.edit(
        'Drag',
        setData(
          props.id,
          'poses',
          poses.value.map((p, k) =>
            k === at
              ? { ...p, bands: p.bands.map((b, n) => (n === index ? { ...b, frequency, gain } : b)) }
              : p,
          ),
        ),
      )
      return
    }
    hand.edit('Drag', setParam(props.id, path, frequencyAt(s, m.clientX - box.left, 20, 20_000)))
    if (height)
      hand.edit(
        'Drag',
        setParam(props.id, height, 30 - ((m.clientY - box.top - s.top) / (s.bottom - s.top)) * 78),
      )
  }
  hand.drag(e, 'Drag on the picture', move)
}
</script>

<template>
  <div class="flex flex-col">
    <canvas
      ref="canvas"
      class="min-h-0 w-full flex-1 touch-none"
      :class="bands.length || live.specs.value.frequency ? 'cursor-move' : ''"
      role="img"
      aria-label="Response, measured live"
      title="Drag a band or the tuned frequency"
      @pointerdown="press"
    />
    <div class="flex gap-3 pt-1 text-small" role="group" aria-label="Response">
      <button
        v-for="v in ['magnitude', 'phase', 'delay'] as const"
        :key="v"
        :class="view === v ? 'border-b-2 border-magenta font-semibold' : 'text-second'"
        :aria-pressed="view === v"
        @click="view = v"
      >
        {{ { magnitude: 'Magnitude', phase: 'Phase', delay: 'Group delay' }[v] }}
      </button>
    </div>
  </div>
</template>
