import { DrawnShape, type Point, readPoints } from '../dsp/drawn-shape'
import { DcBlocker } from '../dsp/one-pole'
import { OVERSAMPLER_LATENCY, Oversampler, shaperRates } from '../dsp/oversampler'
import { BLOCK, peakOf } from '../engine/block'
import { boost, choice, factor, toggle } from '../units/parameter'
import { defineEffect } from './definition'

/** Straight pieces that the drawn curve is read as. */
const CELLS = 2048

/** The curve of a new one, in places 0…1 of input and output: a soft shoulder on both sides. */
export const firstShape: readonly Point[] = [{ x: 0, y: 0.06, bend: 0.35 }, { x: 0.5, y: 0.5, bend: -0.35 }, { x: 1, y: 0.94, bend: 0 }]

/** The curve as stored: places 0…1 for input and output −1…1. */
export const shapeOf = (data: Readonly<Record<string, unknown>> | undefined): readonly Point[] => {
  const points = readPoints(data?.points, 1)
  return points.length > 1 ? points : firstShape
}

/**
 * A transfer curve that is drawn. It is read as straight pieces, whose antiderivative is known exactly, and anti-aliased by
 * that (Parker, Zavalishin, Le Bivic 2016) at up to 8 times the rate. Beyond −1…1 it stays where it ended; what it
 * makes of silence is taken out.
 */
export const shaper = defineEffect({
  id: 'shaper',
  name: 'Shaper',
  group: 'dirt',
  tip: 'A transfer curve drawn by hand',
  params: {
    gain: boost('Gain', { min: -24, max: 48, default: 6, tip: 'Gain into the curve' }),
    offset: factor('Offset', { min: -1, max: 1, default: 0, tip: 'Moves the signal along the curve; adds even harmonics' }),
    mirror: toggle('Mirror', false, 'The lower half is the upper one turned round: odd harmonics alone'),
    output: boost('Output', { min: -36, max: 24, default: -3, tip: 'Level after the curve' }),
    quality: choice('Quality', ['naive', '2 ×', '4 ×', '8 ×'], 3, 'Oversampling around the curve; naive lets aliases through'),
  },
  readouts: ['input'],
  latency: () => OVERSAMPLER_LATENCY,
  tail: () => 0.1,
  create: ({ sampleRate }) => {
    const channels = [0, 1].map(() => ({ over: new Oversampler(BLOCK), dc: new DcBlocker(sampleRate) }))
    // heights at the ends of the pieces and areas up to them, for the curve as drawn and mirrored
    const tables = [0, 1].map(() => ({ heights: new Float64Array(CELLS + 1), areas: new Float64Array(CELLS + 1) }))
    const state = new Float64Array(2)
    fillTables(tables, firstShape)
    const readouts = new Float64Array(1)
    return {
      readouts,
      take(data) { fillTables(tables, shapeOf(data)) },
      reset() {
        for (const c of channels) {
          c.over.reset()
          c.dc.reset()
        }
        state.fill(0)
      },
      process({ in: input, out }, p) {
        const rate = shaperRates[p.quality.value]
        readouts[0] = peakOf(input)
        const { heights, areas } = tables[p.mirror.value]
        const gains = p.gain.values(), offsets = p.offset.values(), outputs = p.output.values()
        const rest = heightAt(heights, p.offset.constant ? p.offset.value : 0)
        for (let c = 0; c < 2; c++) {
          const { over, dc } = channels[c]
          const { base } = over
          const x = c === 0 ? input.left : input.right
          const y = c === 0 ? out.left : out.right
          for (let i = 0; i < BLOCK; i++) base[i] = x[i] * gains[i] + offsets[i]
          const fast = over.raise(rate)
          if (rate === 1) for (let i = 0; i < BLOCK; i++) fast[i] = heightAt(heights, fast[i]) - rest
          else shape(fast, heights, areas, rest, state, c)
          over.lower(rate)
          dc.process(base)
          for (let i = 0; i < BLOCK; i++) y[i] = base[i] * outputs[i]
        }
      },
    }
  },
})

/** The curve at −1…1; level beyond. */
function heightAt(heights: Float64Array, x: number): number {
  const at = (x + 1) * (CELLS / 2)
  if (!(at > 0)) return heights[0]
  if (at >= CELLS) return heights[CELLS]
  const k = at | 0
  return heights[k] + (heights[k + 1] - heights[k]) * (at - k)
}

/** Its antiderivative from −1. */
function areaAt(heights: Float64Array, areas: Float64Array, x: number): number {
  const at = (x + 1) * (CELLS / 2)
  if (!(at > 0)) return heights[0] * (x + 1)
  if (at >= CELLS) return areas[CELLS] + heights[CELLS] * (x - 1)
  const k = at | 0
  const t = at - k
  return areas[k] + (heights[k] + 0.5 * (heights[k + 1] - heights[k]) * t) * t * (2 / CELLS)
}

function shape(x: Float64Array, heights: Float64Array, areas: Float64Array, rest: number, state: Float64Array, at: number): void {
  let last = state[at]
  let area = areaAt(heights, areas, last)
  for (let i = 0; i < x.length; i++) {
    const a = x[i]
    const f = areaAt(heights, areas, a)
    const d = a - last
    x[i] = (d > 1e-5 || d < -1e-5 ? (f - area) / d : heightAt(heights, 0.5 * (a + last))) - rest
    last = a
    area = f
  }
  state[at] = last
}

function fillTables(tables: readonly { heights: Float64Array, areas: Float64Array }[], points: readonly Point[]): void {
  const drawn = new DrawnShape(points)
  tables.forEach(({ heights, areas }, mirrored) => {
    for (let k = 0; k <= CELLS; k++) heights[k] = 2 * drawn.at(k / CELLS) - 1
    if (mirrored) for (let k = 0; k < CELLS / 2; k++) heights[k] = 2 * heights[CELLS / 2] - heights[CELLS - k]
    for (let k = 0; k < CELLS; k++) areas[k + 1] = areas[k] + (heights[k] + heights[k + 1]) / CELLS
  })
}
