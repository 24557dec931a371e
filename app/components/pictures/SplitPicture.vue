<script setup lang="ts">
import { setParam } from '@oleaje/core/project/value-edits'
import type { Split } from '@oleaje/core/project/schema'
import { crossovers, splitParams } from '@oleaje/core/project/nodes/split'
import { fromNormalized, toNormalized } from '@oleaje/core/units/scale'
import { formatValue } from '@oleaje/core/units/text'
import { Spectrum } from '@oleaje/core/analysis/spectrum'
import { useCanvas } from '../../composables/useCanvas'
import { useGesture } from '../../composables/useGesture'
import { useSession } from '../../composables/useSession'
import { type Sheet, drawCurve, drawSheet, frequencyAt, frequencyAxis, line } from './profile'

/**
 * What a split sends where: bands between crossovers that are dragged over the live spectrum, or places along
 * a position.
 */
const props = defineProps<{ split: Split }>()
const { doc, host } = useSession()
const hand = useGesture()
const SIZE = 4096
const spectrum = new Spectrum(SIZE)
let sheet: Sheet | null = null

const base = (param: string): number => props.split.params[param] ?? splitParams[param as 'cross1'].default
const live = (param: string): number => {
  const spec = splitParams[param as 'cross1']
  return fromNormalized(
    spec,
    host.telemetry.get(`live:${props.split.id}.${param}`, toNormalized(spec, base(param))),
  )
}
const used = (): string[] => crossovers.slice(0, Math.min(5, props.split.branches.length) - 1)

/** Level in dB of a fourth-order Linkwitz–Riley side at `f`. */
const side = (f: number, corner: number, low: boolean): number =>
  -20 * Math.log10(1 + (low ? f / corner : corner / f) ** 4)

const canvas = useCanvas((pen) => {
  const { g, color, width, height } = pen
  const { split } = props
  if (split.mode === 'select') {
    const n = split.branches.length
    const at = live('position')
    g.font = 'italic 14px Newsreader'
    g.textAlign = 'center'
    split.branches.forEach((b, k) => {
      const x = 30 + (n > 1 ? k / (n - 1) : 0.5) * (width - 60)
      const near = Math.max(0, 1 - Math.abs(at * (n - 1) - k))
      g.fillStyle = color('water')
      const h = Math.sin((Math.PI / 2) * near) * (height - 60)
      g.fillRect(x - 18, height - 30 - h, 36, h)
      g.strokeStyle = color('line')
      g.strokeRect(x - 18.5, 29.5, 37, height - 60)
      g.fillStyle = color('ink')
      g.fillText(b.name, x, height - 12)
    })
    g.fillStyle = color('ink')
    g.fillRect(30 + at * (width - 60) - 1, 20, 2, height - 44)
    return
  }
  if (split.mode !== 'bands') return
  sheet = drawSheet(pen, frequencyAxis, {
    min: -48,
    max: 6,
    marks: [
      [0, '0'],
      [-12, '−12'],
      [-24, '−24'],
      [-36, '−36'],
    ],
  })
  const s = sheet
  const rate = doc.project?.sampleRate ?? 48_000
  const levels = spectrum.ofRing(
    host.telemetry.memory.rings[0] as Float32Array,
    host.telemetry.memory.head[0] ?? 0,
  )
  g.globalAlpha = 0.6
  drawCurve(
    pen,
    s,
    (x) => {
      const f = frequencyAt(s, x, 20, 20_000)
      const from = Math.floor((f / rate) * SIZE)
      const to = Math.max(from + 1, Math.floor(((f * 1.03) / rate) * SIZE))
      let most = 0
      for (let i = from; i < to && i < levels.length; i++) most = Math.max(most, levels[i] ?? 0)
      return s.y(20 * Math.log10(most + 1e-6) + 3 * Math.log2(f / 1000) + 12)
    },
    { color: color('water'), width: 1, fill: color('water') },
  )
  g.globalAlpha = 1
  const corners = used().map(live)
  split.branches.slice(0, 5).forEach((b, k) => {
    drawCurve(
      pen,
      s,
      (x) => {
        const f = frequencyAt(s, x, 20, 20_000)
        return s.y(
          corners.reduce(
            (sum, c, i) => sum + (i < k ? side(f, c, false) : i === k ? side(f, c, true) : 0),
            (b.params.mute ?? 0) >= 0.5 ? -200 : (b.params.level ?? 0),
          ),
        )
      },
      { color: color('ink'), width: 2 },
    )
  })
  for (const name of used()) {
    g.strokeStyle = color('magenta')
    g.setLineDash([4, 3])
    line(g, s.x(live(name)), s.top, s.x(live(name)), s.bottom)
    g.setLineDash([])
    g.fillStyle = color('ink')
    g.textAlign = 'center'
    g.textBaseline = 'top'
    g.font = '12px "IBM Plex Sans Condensed"'
    g.fillText(formatValue(splitParams[name as 'cross1'], base(name)), s.x(base(name)), s.top + 2)
  }
})

/** Drags the nearest crossover, or the position. */
function press(e: PointerEvent): void {
  const el = canvas.value
  if (!el) return
  const box = el.getBoundingClientRect()
  const s = sheet
  const bands = props.split.mode === 'bands'
  const name =
    bands && s
      ? used().reduce(
          (best, n) =>
            Math.abs(s.x(base(n)) - e.clientX + box.left) < Math.abs(s.x(base(best)) - e.clientX + box.left)
              ? n
              : best,
          'cross1',
        )
      : 'position'
  const move = (m: PointerEvent): void => {
    const x = m.clientX - box.left
    hand.edit(
      'Drag',
      setParam(
        props.split.id,
        name,
        bands && s ? frequencyAt(s, x, 20, 20_000) : (x - 30) / (box.width - 60),
      ),
    )
  }
  hand.drag(e, bands ? 'Move a crossover' : 'Move the position', move)
  move(e)
}
</script>

<template>
  <canvas
    ref="canvas"
    class="w-full cursor-ew-resize touch-none"
    role="img"
    :aria-label="
      split.mode === 'bands'
        ? 'Bands of the split over the live spectrum'
        : 'Places of the branches along the position'
    "
    :title="split.mode === 'bands' ? 'Drag a crossover' : 'Drag the position'"
    @pointerdown="press"
  />
</template>
