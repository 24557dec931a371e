import { DrawnShape, type Point, readPoints } from '../dsp/drawn-shape'
import { DcBlocker } from '../dsp/one-pole'
import { OVERSAMPLER_LATENCY, Oversampler, shaperRates } from '../dsp/oversampler'
import { type LevelledCurve, SecondAntiderivative } from '../dsp/second-antiderivative'
import { ValueDelay } from '../dsp/value-delay'
import { BLOCK, peakOf } from '../contract/block'
import { amount, boost, choice, toggle } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/** Straight pieces that the drawn curve is read as. */
const CELLS = 2048
const WIDTH = 2 / CELLS

/** The curve of a new one, in places 0…1 of input and output: a soft shoulder on both sides. */
export const firstTransferCurve: readonly Point[] = [
  { x: 0, y: 0.06, bend: 0.35 },
  { x: 0.5, y: 0.5, bend: -0.35 },
  { x: 1, y: 0.94, bend: 0 },
]

/** The curve as stored: places 0…1 for input and output −1…1. */
export const shapeOf = (data: Readonly<Record<string, unknown>> | undefined): readonly Point[] => {
  const points = readPoints(data?.points, 1)
  return points.length > 1 ? points : firstTransferCurve
}

/**
 * A transfer curve that is drawn. It is read as straight pieces, whose antiderivatives are known exactly, and
 * anti-aliased by them (see dsp/second-antiderivative) at up to 16 times the rate. Beyond −1…1 it stays where
 * it ended; what it makes of silence is taken out.
 */
export const shaper = defineEffect({
  id: 'shaper',
  name: 'Shaper',
  group: 'dirt',
  load: { kB: 142, ns: 850 },
  tip: 'Distorts the sound by a transfer curve that you draw',
  also: ['waveshaper', 'transfer curve', 'distortion', 'clip'],
  params: {
    gain: boost('Gain', { min: -24, max: 48, default: 6, tip: 'Input gain' }),
    offset: amount('Offset', {
      min: -1,
      max: 1,
      default: 0,
      tip: 'Shifts the signal on the curve; adds even harmonics',
    }),
    mirror: toggle('Mirror', false, 'The lower half mirrors the upper one, which gives odd harmonics only'),
    output: boost('Output', { min: -36, max: 24, default: -3, tip: 'Output level' }),
    quality: choice(
      'Quality',
      ['naive', '2 ×', '4 ×', '8 ×', '16 ×'],
      3,
      'Oversampling; naive has none and lets aliases through',
    ),
  },
  readouts: ['input'],
  latency: () => OVERSAMPLER_LATENCY.sharp,
  acts: (path, latency) => (path === 'output' ? latency : path === 'mirror' ? latency / 2 : 0),
  draft: { quality: 2 },
  // the DC blocker's
  tail: () => 0.6,
  presets: [
    {
      name: 'Soft shoulder',
      tip: 'Gentle limiting curve',
      params: { gain: 9, output: -4 },
      data: { points: firstTransferCurve },
    },
    {
      name: 'Stairs',
      tip: 'Steps like low bit depth',
      params: { gain: 3, output: -6 },
      data: {
        points: [0, 0.2, 0.4, 0.6, 0.8].flatMap((x) => [
          { x, y: x + 0.1, bend: 0 },
          { x: x + 0.19, y: x + 0.1, bend: 0 },
        ]),
      },
    },
    {
      name: 'Rectifier',
      tip: 'Folds the negative half up',
      params: { gain: 0, output: -3 },
      data: {
        points: [
          { x: 0, y: 0.95, bend: 0 },
          { x: 0.5, y: 0.5, bend: 0 },
          { x: 1, y: 0.95, bend: 0 },
        ],
      },
    },
    {
      name: 'Dead zone',
      tip: 'Removes quiet parts',
      params: { gain: 9, output: -3, mirror: 1 },
      data: {
        points: [
          { x: 0, y: 0, bend: 0 },
          { x: 0.5, y: 0.5, bend: 0 },
          { x: 0.56, y: 0.5, bend: -0.2 },
          { x: 1, y: 0.95, bend: 0 },
        ],
      },
    },
  ],
  create: ({ sampleRate }) => {
    const channels = [0, 1].map(() => ({
      over: new Oversampler(BLOCK, 'sharp'),
      dc: new DcBlocker(sampleRate),
      smooth: new SecondAntiderivative(),
    }))
    // as drawn, and mirrored
    const curves = [new PiecesCurve(), new PiecesCurve()]
    const draw = (points: readonly Point[]) =>
      curves.forEach((curve, mirrored) => curve.draw(points, mirrored === 1))
    draw(firstTransferCurve)
    // output of the curve for silence, once that offset has reached the curve
    const rests = new Float64Array(BLOCK)
    const restDelay = new ValueDelay(OVERSAMPLER_LATENCY.sharp >> 1)
    const readouts = new Float64Array(1)
    return {
      readouts,
      take(data) {
        draw(shapeOf(data))
      },
      reset() {
        for (const c of channels) {
          c.over.reset()
          c.dc.reset()
          c.smooth.reset()
        }
        restDelay.reset()
      },
      process({ in: input, out }, p) {
        const rate = shaperRates[p.quality.value]
        readouts[0] = peakOf(input)
        const curve = curves[p.mirror.value]
        const gains = p.gain.values(),
          offsets = p.offset.values(),
          outputs = p.output.values()
        if (p.offset.constant) rests.fill(curve.at(p.offset.value))
        else for (let i = 0; i < BLOCK; i++) rests[i] = curve.at(offsets[i])
        restDelay.process(rests, rests)
        for (let c = 0; c < 2; c++) {
          const { over, dc, smooth } = channels[c]
          const { base } = over
          const x = c === 0 ? input.left : input.right
          const y = c === 0 ? out.left : out.right
          for (let i = 0; i < BLOCK; i++) base[i] = x[i] * gains[i] + offsets[i]
          const fast = over.raise(rate)
          if (rate === 1) for (let i = 0; i < BLOCK; i++) fast[i] = curve.at(fast[i])
          else smooth.process(fast, curve)
          // before the stages, so that silence comes out as nothing at all
          for (let i = 0, k = 0; i < BLOCK; i++)
            for (const end = (i + 1) * rate; k < end; k++) fast[k] -= rests[i]
          over.lower(rate, 2)
          dc.process(base)
          for (let i = 0; i < BLOCK; i++) y[i] = base[i] * outputs[i]
        }
      },
    }
  },
})

/** The drawn curve as straight pieces over −1…1, level beyond, with its antiderivatives from −1. */
class PiecesCurve implements LevelledCurve {
  readonly bottom = -1
  readonly top = 1
  /** Heights at the ends of the pieces, and both antiderivatives there. */
  private readonly heights = new Float64Array(CELLS + 1)
  private readonly firsts = new Float64Array(CELLS + 1)
  private readonly seconds = new Float64Array(CELLS + 1)

  draw(points: readonly Point[], mirrored: boolean): void {
    const { heights, firsts, seconds } = this
    const drawn = new DrawnShape(points)
    for (let k = 0; k <= CELLS; k++) heights[k] = 2 * drawn.at(k / CELLS) - 1
    if (mirrored) for (let k = 0; k < CELLS / 2; k++) heights[k] = 2 * heights[CELLS / 2] - heights[CELLS - k]
    for (let k = 0; k < CELLS; k++) {
      firsts[k + 1] = firsts[k] + 0.5 * WIDTH * (heights[k] + heights[k + 1])
      seconds[k + 1] = seconds[k] + WIDTH * (firsts[k] + (WIDTH * (2 * heights[k] + heights[k + 1])) / 6)
    }
  }

  at(x: number): number {
    const { heights } = this
    const at = (x + 1) / WIDTH
    if (!(at > 0)) return heights[0]
    if (at >= CELLS) return heights[CELLS]
    const k = at | 0
    return heights[k] + (heights[k + 1] - heights[k]) * (at - k)
  }

  read(x: number, into: Float64Array): void {
    const { heights, firsts, seconds } = this
    const at = (x + 1) / WIDTH
    const k = at >= CELLS ? CELLS : at > 0 ? at | 0 : 0
    const h = heights[k]
    const u = x + 1 - k * WIDTH
    const slope = at > 0 && at < CELLS ? (heights[k + 1] - h) / WIDTH : 0
    into[0] = h + slope * u
    into[1] = firsts[k] + u * (h + 0.5 * slope * u)
    into[2] = seconds[k] + u * (firsts[k] + u * (0.5 * h + (slope * u) / 6))
  }
}
