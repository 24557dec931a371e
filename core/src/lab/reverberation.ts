import { Fft } from '../dsp/fft'
import { cosCycles, log2, toDb } from '../dsp/math'
import type { LabCurve, LabResult } from './result'
import { impulse } from './signals'
import type { Through } from './through'

const HEIGHT = 0.25
const SIZE = 1 << 19
/** Middles of octaves in Hz. */
export const octaves = [63, 125, 250, 500, 1000, 2000, 4000, 8000] as const
/** Levels in dB between which the decay is read, for T30, for T20 and for the early decay. */
const T30 = [-5, -35] as const
const T20 = [-5, -25] as const
const EARLY = [0, -10] as const
const POINTS = 200

/**
 * Energy that is still to come, in dB of all of it, by backward integration (Schroeder, New Method of
 * Measuring Reverberation Time, 1965).
 */
export function decayOf(sound: Float64Array): Float64Array {
  const out = new Float64Array(sound.length)
  let sum = 0
  for (let i = sound.length - 1; i >= 0; i--) {
    sum += sound[i] ** 2
    out[i] = sum
  }
  const all = out[0]
  for (let i = 0; i < out.length; i++) out[i] = all > 0 ? toDb(Math.max(1e-30, out[i] / all)) / 2 : -150
  return out
}

/** Seconds for 60 dB by the straight line through a part of the decay; NaN where it does not get there. */
export function decayTime(
  decay: Float64Array,
  sampleRate: number,
  [from, to]: readonly [number, number],
): number {
  const first = decay.findIndex((v) => v <= from)
  const last = decay.findIndex((v) => v <= to)
  if (first < 0 || last - first < 16) return NaN
  let [n, sx, sy, sxx, sxy] = [0, 0, 0, 0, 0]
  for (let i = first; i <= last; i++) {
    n++
    sx += i
    sy += decay[i]
    sxx += i * i
    sxy += i * decay[i]
  }
  const slope = (n * sxy - sx * sy) / (n * sxx - sx * sx)
  return slope < 0 ? -60 / slope / sampleRate : NaN
}

/** Reverberation times by octave (ISO 3382-1), and the decay of each. */
export function reverberation(through: Through): LabResult {
  const { sampleRate } = through
  const [left, right] = through.run(impulse(SIZE / 2, HEIGHT))
  const times = { t30: [] as number[], early: [] as number[] }
  const curves: LabCurve[] = []
  const filter = new OctaveFilter([left, right], sampleRate)
  for (const middle of octaves) {
    const decay = decayOf(filter.band(middle))
    const t30 = decayTime(decay, sampleRate, T30)
    times.t30.push(Number.isNaN(t30) ? decayTime(decay, sampleRate, T20) : t30)
    times.early.push(decayTime(decay, sampleRate, EARLY))
    const end = decay.findIndex((v) => v < -90)
    const length = end < 0 ? decay.length : Math.max(POINTS, end)
    const at = (i: number): number => Math.min(decay.length - 1, Math.round((i * length) / POINTS))
    curves.push({
      name: middle < 1000 ? `${middle} Hz` : `${middle / 1000} kHz`,
      x: Float64Array.from({ length: POINTS }, (_, i) => at(i) / sampleRate),
      y: Float64Array.from({ length: POINTS }, (_, i) => decay[at(i)]),
    })
  }
  const x = Float64Array.from(octaves)
  const mean = (times.t30[octaves.indexOf(500)] + times.t30[octaves.indexOf(1000)]) / 2
  return {
    charts: [
      {
        id: 'rt60',
        title: 'Reverberation time by octave',
        x: { name: 'Octave', unit: 'Hz', scale: 'log', from: 50, to: 10_000 },
        y: { name: 'Time for 60 dB', unit: 's', scale: 'linear', from: 0 },
        curves: [
          { name: 'RT60', x, y: Float64Array.from(times.t30) },
          { name: 'Early decay', x, y: Float64Array.from(times.early) },
        ],
      },
      {
        id: 'decay',
        title: 'Decay by octave',
        x: { name: 'Time', unit: 's', scale: 'linear', from: 0 },
        y: { name: 'Energy to come', unit: 'dB', scale: 'linear', from: -80, to: 0 },
        curves,
      },
    ],
    figures: [{ name: 'RT60, 500 Hz and 1 kHz', value: Number.isNaN(mean) ? null : mean, unit: 's' }],
  }
}

/** Octaves of an impulse response, both sides one after the other in power, without a phase of their own. */
class OctaveFilter {
  private readonly fft = new Fft(SIZE)
  private readonly re: Float64Array
  private readonly im: Float64Array

  constructor(
    [left, right]: readonly [Float32Array, Float32Array],
    private readonly sampleRate: number,
  ) {
    // left as the real part and right as the imaginary one: their powers add
    this.re = new Float64Array(SIZE)
    this.im = new Float64Array(SIZE)
    this.re.set(left)
    this.im.set(right)
    this.fft.forward(this.re, this.im)
  }

  /** Root of the power of both sides, frame by frame. */
  band(middle: number): Float64Array {
    const re = new Float64Array(SIZE)
    const im = new Float64Array(SIZE)
    for (let k = 1; k < SIZE; k++) {
      const hz = (Math.min(k, SIZE - k) * this.sampleRate) / SIZE
      const octavesOff = Math.abs(log2(hz / middle))
      // flat within ⅓ of an octave, and down to nothing at ⅔
      const gain =
        octavesOff < 1 / 3 ? 1 : octavesOff > 2 / 3 ? 0 : 0.5 + 0.5 * cosCycles((octavesOff - 1 / 3) * 1.5)
      re[k] = this.re[k] * gain
      im[k] = -this.im[k] * gain
    }
    this.fft.forward(re, im)
    const out = new Float64Array(SIZE / 2)
    for (let i = 0; i < out.length; i++) out[i] = Math.sqrt(re[i] ** 2 + im[i] ** 2) / SIZE
    return out
  }
}
