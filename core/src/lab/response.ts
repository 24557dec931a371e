import { Fft } from '../dsp/fft'
import { PI, angleOf, cosCycles, exp2, log2, toDb } from '../dsp/math'
import { type LabCurve, type LabResult, frequencyAxis } from './result'
import type { LabSettings } from './settings'
import { sweep } from './signals'
import type { Through } from './through'

/** Frames of the sweep, and of the transform, which has room for the decay after it. */
const SWEEP = 1 << 17
const SIZE = 2 * SWEEP
/** Share of the strongest bin below which a bin of the sweep counts for little. */
const LEAST = 1e-9
/** Points an octave. */
const DENSITY = 48
const LOWEST = 20
const HIGHEST = 20_000

/** What a chain does to each frequency, left channel. Half the bins of the transform. */
export interface SweptResponse {
  readonly binHz: number
  readonly re: Float64Array
  readonly im: Float64Array
  /** Samples of the impulse response that this is the transform of, from where the chain’s latency ends. */
  readonly impulse: Float64Array
}

/**
 * The linear part of what a chain does, by a sweep: what comes out divided by what goes in, at each
 * frequency. Harmonics lie before the impulse response, as they are reached earlier in the sweep, and are cut
 * off there (Farina 2000). Exact for a linear chain that rings no longer than the sweep of 1.4 to 3 s.
 */
export function sweptResponse(through: Through, level: number): SweptResponse {
  const signal = sweep(SWEEP, through.sampleRate, level)
  const [heard] = through.run(signal)
  const fft = new Fft(SIZE)
  // both are real: one transform gives the two
  const re = Float64Array.from(signal[0])
  const im = Float64Array.from(heard)
  fft.forward(re, im)
  const [hRe, hIm] = [new Float64Array(SIZE), new Float64Array(SIZE)]
  const power = new Float64Array(SIZE / 2 + 1)
  let most = 0
  for (let pass = 0; pass < 2; pass++)
    for (let k = 0; k <= SIZE / 2; k++) {
      const j = (SIZE - k) % SIZE
      const [xr, xi] = [(re[k] + re[j]) / 2, (im[k] - im[j]) / 2]
      const [yr, yi] = [(im[k] + im[j]) / 2, (re[j] - re[k]) / 2]
      if (pass === 0) {
        power[k] = xr * xr + xi * xi
        most = Math.max(most, power[k])
        continue
      }
      const by = 1 / (power[k] + most * LEAST)
      hRe[k] = (yr * xr + yi * xi) * by
      hIm[k] = (yi * xr - yr * xi) * by
      hRe[j] = hRe[k]
      hIm[j] = -hIm[k]
    }
  // back to time: the transform of the conjugate
  for (let k = 0; k < SIZE; k++) hIm[k] = -hIm[k]
  fft.forward(hRe, hIm)
  // what lies before the start by less than this belongs to the response of filters without a phase
  const before = Math.round(through.sampleRate * 0.02)
  const impulse = new Float64Array(SIZE)
  for (let i = 0; i < SIZE; i++) {
    const early = i > SIZE / 2 ? SIZE - i : 0
    const kept = early === 0 ? 1 : early < before ? 0.5 + 0.5 * cosCycles(early / before / 2) : 0
    impulse[i] = (hRe[i] / SIZE) * kept
  }
  const outRe = impulse.slice()
  const outIm = new Float64Array(SIZE)
  fft.forward(outRe, outIm)
  return {
    binHz: through.sampleRate / SIZE,
    re: outRe.subarray(0, SIZE / 2),
    im: outIm.subarray(0, SIZE / 2),
    impulse,
  }
}

/** Bins nearest to frequencies at even distances in octaves. */
function binsOf({ binHz, re }: SweptResponse): number[] {
  const bins: number[] = []
  const count = Math.ceil(log2(HIGHEST / LOWEST) * DENSITY)
  for (let i = 0; i <= count; i++) {
    const bin = Math.round((LOWEST * exp2(i / DENSITY)) / binHz)
    if (bin < re.length && bin * binHz <= HIGHEST + binHz && bin !== bins.at(-1)) bins.push(bin)
  }
  return bins
}

/** Mean power around a bin, over so many octaves. */
function smoothed({ re, im }: SweptResponse, bin: number, octaves: number): number {
  const from = Math.max(1, Math.round(bin * exp2(-octaves / 2)))
  const to = Math.min(re.length - 1, Math.round(bin * exp2(octaves / 2)))
  let power = 0
  for (let k = from; k <= to; k++) power += re[k] * re[k] + im[k] * im[k]
  return power / Math.max(1, to - from + 1)
}

/**
 * Magnitude, phase and group delay. Smoothing acts on the magnitude alone. The group delay comes from the
 * transform of the ramped impulse response (Smith, Introduction to Digital Filters, 2007).
 */
export function response(through: Through, { level, smoothing }: LabSettings): LabResult {
  const swept = sweptResponse(through, level)
  const { re, im, binHz, impulse } = swept
  const rampRe = Float64Array.from(impulse, (v, i) => v * (i > SIZE / 2 ? i - SIZE : i))
  const rampIm = new Float64Array(SIZE)
  new Fft(SIZE).forward(rampRe, rampIm)
  const bins = binsOf(swept)
  const x = Float64Array.from(bins, (bin) => bin * binHz)
  const magnitude = Float64Array.from(bins, (bin) =>
    Math.max(-140, toDb(Math.max(1e-20, smoothed(swept, bin, smoothing))) / 2),
  )
  const phase = Float64Array.from(bins, (bin) => (angleOf(re[bin], im[bin]) * 180) / PI)
  const delay = Float64Array.from(bins, (bin) => {
    const power = re[bin] ** 2 + im[bin] ** 2
    return power > 1e-12
      ? ((rampRe[bin] * re[bin] + rampIm[bin] * im[bin]) / power / through.sampleRate) * 1000
      : NaN
  })
  const curve = (name: string, y: Float64Array): LabCurve => ({ name, x, y })
  const highest = magnitude.reduce((best, v, i) => (v > (magnitude[best] ?? 0) ? i : best), 0)
  return {
    charts: [
      {
        id: 'magnitude',
        title: 'Magnitude',
        x: frequencyAxis,
        y: { name: 'Gain', unit: 'dB', scale: 'linear' },
        curves: [curve('Magnitude', magnitude)],
      },
      {
        id: 'phase',
        title: 'Phase',
        x: frequencyAxis,
        y: { name: 'Phase', unit: '°', scale: 'linear', from: -180, to: 180 },
        curves: [curve('Phase', phase)],
      },
      {
        id: 'group-delay',
        title: 'Group delay',
        x: frequencyAxis,
        y: { name: 'Group delay', unit: 'ms', scale: 'linear' },
        curves: [curve('Group delay', delay)],
      },
    ],
    figures: [
      { name: 'Highest gain', value: magnitude[highest] ?? null, unit: 'dB' },
      { name: 'At', value: x[highest] ?? null, unit: 'Hz' },
      {
        name: 'Gain at 1 kHz',
        value: magnitude[bins.findIndex((b) => b * binHz >= 1000)] ?? null,
        unit: 'dB',
      },
    ],
  }
}
