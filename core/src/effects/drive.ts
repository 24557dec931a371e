import { CURVES, curveAt, shapeCurve, shapeFirm } from '../dsp/antiderivative'
import { DcBlocker, onePoleWeight } from '../dsp/one-pole'
import { OVERSAMPLER_LATENCY, Oversampler, type ShaperRate, shaperRates } from '../dsp/oversampler'
import { ClipCurve, SecondAntiderivative } from '../dsp/second-antiderivative'
import { BLOCK, type ParamBlock, peakOf } from '../contract/block'
import { amount, boost, choice, hertz, percent } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/** Factors of the coarse range. */
const RANGES = [0.1, 1, 10, 100] as const

/** The curve with corners, which takes antiderivatives of second order to keep its aliases down. */
const HARD = CURVES.indexOf('hard')

/**
 * Saturation. The curve is anti-aliased by its antiderivative (see dsp/antiderivative) at up to 8 times the
 * rate; what the bias adds at rest is taken out again and the mean is blocked. Output peaks stay near 0 dBFS
 * before Output.
 */
export const drive = defineEffect({
  id: 'drive',
  name: 'Drive',
  group: 'dirt',
  load: { kB: 59, ns: 550 },
  tip: 'Saturation from warm to hard, free of aliasing',
  also: ['distortion', 'overdrive', 'saturation', 'clip', 'soft clip', 'amp'],
  params: {
    range: choice('Range', ['−20 dB', '0 dB', '+20 dB', '+40 dB'], 1, 'Coarse input gain'),
    drive: boost('Drive', { min: 0, max: 48, default: 12, tip: 'Input gain' }),
    curve: choice('Curve', CURVES, 0, 'Shape of the saturation, from soft to hard'),
    bias: amount('Bias', {
      min: -1,
      max: 1,
      default: 0,
      tip: 'Shifts the signal on the curve; adds even harmonics',
    }),
    asymmetry: percent('Asymmetry', {
      max: 0.9,
      default: 0,
      tip: 'Saturates the negative half earlier; adds even harmonics',
    }),
    lowCut: hertz('Low cut before', {
      min: 20,
      max: 2000,
      default: 20,
      tip: 'High-pass before the curve; off at the minimum',
    }),
    before: hertz('Tone before', {
      min: 500,
      max: 20_000,
      default: 20_000,
      tip: 'Low-pass before the curve; off at the maximum',
    }),
    tone: hertz('Tone after', {
      min: 500,
      max: 20_000,
      default: 20_000,
      tip: 'Low-pass after the curve; off at the maximum',
    }),
    output: boost('Output', { min: -36, max: 12, default: -6, tip: 'Output level' }),
    quality: choice(
      'Quality',
      ['naive', '2 ×', '4 ×', '8 ×'],
      3,
      'Oversampling; naive has none and lets aliases through',
    ),
  },
  readouts: ['input'],
  latency: () => OVERSAMPLER_LATENCY.short,
  acts: (path, latency) =>
    path === 'output' || path === 'tone'
      ? latency
      : path === 'asymmetry' || path === 'curve'
        ? latency >> 1
        : 0,
  draft: { quality: 1 },
  // the DC blocker's
  tail: () => 0.6,
  groups: [
    { name: 'Curve', gauges: ['range', 'drive', 'curve', 'bias', 'asymmetry'] },
    { name: 'Tone', gauges: ['lowCut', 'before', 'tone'] },
    { name: 'Output', gauges: ['output', 'quality'] },
  ],
  presets: [
    { name: 'Warm planks', tip: 'Gentle saturation', params: { drive: 9, curve: 3, output: -4 } },
    {
      name: 'Engine room',
      tip: 'Thick distortion',
      params: { drive: 24, curve: 1, lowCut: 120, tone: 6000, output: -10 },
    },
    {
      name: 'Torn sail',
      tip: 'Hard clipping',
      params: { range: 2, drive: 12, curve: 2, tone: 8000, output: -14 },
    },
    {
      name: 'Leaning over',
      tip: 'Uneven, even harmonics',
      params: { drive: 14, curve: 5, asymmetry: 0.6, output: -6 },
    },
    {
      name: 'Soft valve',
      tip: 'Round overdrive',
      params: { drive: 12, curve: 6, asymmetry: 0.25, before: 9000, output: -5 },
    },
  ],
  create: ({ sampleRate }) => {
    const channels = [0, 1].map(() => ({
      over: new Oversampler(BLOCK),
      dc: new DcBlocker(sampleRate),
      clip: new SecondAntiderivative(),
      last: 0,
    }))
    const clipped = new ClipCurve()
    // how high the lower half of the curve is, in each frame
    const lows = new Float64Array(BLOCK).fill(1)
    // one-pole states of the cut and the tone before and the tone after, left and right
    const poles = new Float64Array(6)
    const weights = [new Float64Array(BLOCK), new Float64Array(BLOCK), new Float64Array(BLOCK)]
    const cuts = new Uint8Array(3)

    function run(c: number, input: Float32Array, out: Float32Array, p: DriveBlocks, rate: ShaperRate) {
      const { over, dc, clip } = channels[c]
      const { base } = over
      const { drive, bias, output } = p
      const coarse = RANGES[p.range.value]
      if (!cuts[0] && !cuts[1] && drive.constant && bias.constant)
        into(input, base, coarse * drive.value, bias)
      else {
        base.set(input)
        if (cuts[0]) lowPass(base, weights[0], poles, 3 * c, true)
        if (cuts[1]) lowPass(base, weights[1], poles, 3 * c + 1, false)
        const d = drive.values()
        const b = bias.values()
        for (let i = 0; i < BLOCK; i++) base[i] = base[i] * coarse * d[i] + b[i]
      }
      const fast = over.raise(rate)
      const curve = p.curve.value
      const even = p.asymmetry.constant && p.asymmetry.value === 0
      const { last } = channels[c]
      if (rate === 1) for (let i = 0; i < BLOCK; i++) fast[i] = curveAt(curve, lows[i], fast[i])
      else if (curve === 0 && even) over.shapeRound(fast)
      else if (curve === 1 && even) channels[c].last = shapeFirm(fast, last)
      else if (curve === HARD) clipBy(clip, fast, p.asymmetry.constant ? BLOCK : 1)
      else channels[c].last = shapeCurve(curve, lows, fast, last)
      over.lower(rate, curve === HARD && rate > 1 ? 2 : 0.5)
      dc.process(base)
      if (cuts[2]) lowPass(base, weights[2], poles, 3 * c + 2, false)
      if (output.constant) outOf(base, out, output)
      else {
        const g = output.buffer
        for (let i = 0; i < BLOCK; i++) out[i] = base[i] * g[i]
      }
    }

    /** With a constant height of the lower half for so many frames. */
    function clipBy(clip: SecondAntiderivative, fast: Float64Array, frames: number): void {
      const rate = fast.length / BLOCK
      for (let i = 0; i < BLOCK; i += frames) {
        clipped.low = lows[i]
        clip.process(fast, clipped, i * rate, (i + frames) * rate)
      }
    }

    const readouts = new Float64Array(1)
    return {
      readouts,
      reset() {
        for (const c of channels) {
          c.over.reset()
          c.dc.reset()
          c.clip.reset()
          c.last = 0
        }
        poles.fill(0)
      },
      process({ in: input, out }, p) {
        const rate = shaperRates[p.quality.value]
        readouts[0] = peakOf(input)
        cuts[0] = !p.lowCut.constant || p.lowCut.value > 20.01 ? 1 : 0
        cuts[1] = !p.before.constant || p.before.value < 19_990 ? 1 : 0
        cuts[2] = !p.tone.constant || p.tone.value < 19_990 ? 1 : 0
        if (cuts[0]) fillWeights(weights[0], p.lowCut, sampleRate)
        if (cuts[1]) fillWeights(weights[1], p.before, sampleRate)
        if (cuts[2]) fillWeights(weights[2], p.tone, sampleRate)
        fillLows(lows, p.asymmetry)
        run(0, input.left, out.left, p, rate)
        run(1, input.right, out.right, p, rate)
      },
    }
  },
})

type DriveBlocks = Readonly<
  Record<
    'range' | 'drive' | 'curve' | 'bias' | 'asymmetry' | 'lowCut' | 'before' | 'tone' | 'output',
    ParamBlock
  >
>

/** Frames between two weights of a corner that moves; in between they go straight. */
const STRIDE = 32

/** Weights of a first-order low-pass for each frame. */
function fillWeights(weights: Float64Array, corner: ParamBlock, sampleRate: number): void {
  let w = onePoleWeight(corner.constant ? corner.value : corner.buffer[0], sampleRate)
  if (corner.constant) {
    weights.fill(w)
    return
  }
  for (let start = 0; start < BLOCK; start += STRIDE) {
    const step = (onePoleWeight(corner.buffer[start + STRIDE - 1], sampleRate) - w) / STRIDE
    for (let i = start; i < start + STRIDE; i++) weights[i] = w += step
  }
}

function fillLows(lows: Float64Array, asymmetry: ParamBlock): void {
  const values = asymmetry.values()
  for (let i = 0; i < BLOCK; i++) lows[i] = 1 - values[i]
}

/** First-order low-pass in place, or what it leaves. */
function lowPass(
  x: Float64Array,
  weights: Float64Array,
  poles: Float64Array,
  at: number,
  rest: boolean,
): void {
  let low = poles[at]
  for (let i = 0; i < BLOCK; i++) {
    low += weights[i] * (x[i] - low)
    x[i] = rest ? x[i] - low : low
  }
  poles[at] = low > 1e-20 || low < -1e-20 ? low : 0
}

function into(input: Float32Array, base: Float64Array, d: number, bias: ParamBlock): void {
  const b = bias.value
  for (let i = 0; i < BLOCK; i++) base[i] = input[i] * d + b
}

function outOf(base: Float64Array, out: Float32Array, output: ParamBlock): void {
  const g = output.value
  for (let i = 0; i < BLOCK; i++) out[i] = base[i] * g
}
