import { DcBlocker } from '../dsp/one-pole'
import { OVERSAMPLER_LATENCY, Oversampler, shaperRates } from '../dsp/oversampler'
import { type LevelledCurve, SecondAntiderivative } from '../dsp/second-antiderivative'
import { ValueDelay } from '../dsp/value-delay'
import { BLOCK, peakOf } from '../contract/block'
import { amount, boost, choice, number } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/**
 * The fold as such: `t` is the place between the thresholds, 0 the lower and 1 the upper; beyond them it goes
 * back, up to `folds` times, and then stays at the threshold that it has come to.
 */
export function fold(t: number, folds: number): number {
  const x = Math.min(folds + 1, Math.max(-folds, t))
  const s = x - 2 * Math.floor(x / 2)
  return s <= 1 ? s : 2 - s
}

/**
 * The fold about the middle between the thresholds, so that silence is 0, with its antiderivatives: both
 * repeat with it.
 */
class FoldCurve implements LevelledCurve {
  folds = 1
  get bottom(): number {
    return -this.folds - 0.5
  }
  get top(): number {
    return this.folds + 0.5
  }

  read(x: number, into: Float64Array): void {
    const { folds } = this
    const t = x + 0.5
    const c = t < -folds ? -folds : t > folds + 1 ? folds + 1 : t
    const s = c - 2 * Math.floor(0.5 * c)
    let value: number, first: number, second: number
    if (s <= 1) {
      value = s - 0.5
      first = 0.5 * s * (s - 1)
      second = s * s * (s / 6 - 0.25)
    } else {
      const u = s - 1
      value = 0.5 - u
      first = 0.5 * u * (1 - u)
      second = u * u * (0.25 - u / 6) - 1 / 12
    }
    const e = t - c
    into[0] = value
    into[1] = first + value * e
    into[2] = second + e * (first + 0.5 * value * e)
  }
}

/**
 * Wave folder: gain into two thresholds that send the wave back, with an offset, several folds, and makeup.
 * Anti-aliased by second-order antiderivatives (see dsp/second-antiderivative) at up to 16 times the rate.
 */
export const folder = defineEffect({
  id: 'folder',
  name: 'Folder',
  group: 'dirt',
  load: { kB: 49, ns: 750 },
  tip: 'Folds the waveform back at two thresholds: rich harmonics from a sine',
  also: ['wavefolder', 'fold', 'distortion'],
  params: {
    gain: boost('Gain', { min: 0, max: 48, default: 12, tip: 'Input gain' }),
    upper: amount('Upper', { min: 0.05, max: 1, default: 0.7, tip: 'Upper folding threshold' }),
    lower: amount('Lower', { min: -1, max: -0.05, default: -0.7, tip: 'Lower folding threshold' }),
    offset: amount('Offset', {
      min: -1,
      max: 1,
      default: 0,
      tip: 'Offset against the thresholds; adds even harmonics',
    }),
    folds: number('Folds', {
      min: 1,
      max: 8,
      default: 4,
      glide: 0,
      tip: 'Maximum number of folds',
    }),
    makeup: boost('Makeup', { min: -24, max: 24, default: -3, tip: 'Output level' }),
    quality: choice(
      'Quality',
      ['naive', '2 ×', '4 ×', '8 ×', '16 ×'],
      3,
      'Oversampling; naive has none and lets aliases through',
    ),
  },
  readouts: ['input'],
  latency: () => OVERSAMPLER_LATENCY.sharp,
  acts: (path, latency) => (path === 'makeup' ? latency : path === 'folds' ? latency / 2 : 0),
  draft: { quality: 2 },
  // the DC blocker's
  tail: () => 0.6,
  presets: [
    { name: 'First fold', tip: 'A few bright harmonics', params: { gain: 9, folds: 1, makeup: -3 } },
    {
      name: 'Rich from a sine',
      tip: 'Many folds of a plain wave',
      params: { gain: 16, folds: 4, makeup: -6 },
    },
    { name: 'Uneven', tip: 'Asymmetric folding', params: { gain: 12, upper: 0.4, lower: -0.9, makeup: -3 } },
    {
      name: 'Crumpled tin',
      tip: 'Harsh and metallic',
      params: { gain: 26, folds: 8, offset: 0.2, makeup: -9 },
    },
  ],
  create: ({ sampleRate }) => {
    const channels = [0, 1].map(() => ({
      over: new Oversampler(BLOCK, 'sharp'),
      dc: new DcBlocker(sampleRate),
      smooth: new SecondAntiderivative(),
    }))
    const curve = new FoldCurve()
    const low = new Float64Array(BLOCK)
    const span = new Float64Array(BLOCK)
    // the same when what they have scaled comes out of the folds
    const lateLow = new Float64Array(BLOCK)
    const lateSpan = new Float64Array(BLOCK)
    const lateness = [new ValueDelay(OVERSAMPLER_LATENCY.sharp), new ValueDelay(OVERSAMPLER_LATENCY.sharp)]
    const readouts = new Float64Array(1)
    return {
      readouts,
      reset() {
        for (const c of channels) {
          c.over.reset()
          c.dc.reset()
          c.smooth.reset()
        }
        for (const late of lateness) late.reset()
      },
      process({ in: input, out }, p) {
        const rate = shaperRates[p.quality.value]
        readouts[0] = peakOf(input)
        curve.folds = Math.round(p.folds.value)
        const gains = p.gain.values(),
          uppers = p.upper.values(),
          lowers = p.lower.values(),
          offsets = p.offset.values(),
          makeups = p.makeup.values()
        for (let i = 0; i < BLOCK; i++) {
          low[i] = lowers[i]
          span[i] = uppers[i] - lowers[i]
        }
        lateness[0].process(low, lateLow)
        lateness[1].process(span, lateSpan)
        for (let c = 0; c < 2; c++) {
          const { over, dc, smooth } = channels[c]
          const { base } = over
          const x = c === 0 ? input.left : input.right
          const y = c === 0 ? out.left : out.right
          for (let i = 0; i < BLOCK; i++) base[i] = (x[i] * gains[i] + offsets[i] - low[i]) / span[i] - 0.5
          const fast = over.raise(rate)
          if (rate === 1) for (let i = 0; i < BLOCK; i++) fast[i] = fold(fast[i] + 0.5, curve.folds) - 0.5
          else smooth.process(fast, curve)
          over.lower(rate, 2)
          for (let i = 0; i < BLOCK; i++) base[i] = lateLow[i] + lateSpan[i] * (base[i] + 0.5)
          dc.process(base)
          for (let i = 0; i < BLOCK; i++) y[i] = base[i] * makeups[i]
        }
      },
    }
  },
})
