import { toDb } from '../dsp/math'
import { logBands } from './log-bands'
import { type LabChart, type LabResult, frequencyAxis } from './result'
import type { LabSettings } from './settings'
import { pinkNoise } from './signals'
import type { Through } from './through'

const BANDS = 3
const SETTLE_SECONDS = 0.5
/** Windows an average is taken over, and those that time is divided into. */
const WINDOWS = 60

/**
 * Correlation of the sides, and their difference in dB of their sum, by thirds of an octave and over time,
 * for pink noise that is the same on both sides.
 */
export function stereo(through: Through, { level, seconds }: LabSettings): LabResult {
  const { sampleRate } = through
  const settle = Math.round(SETTLE_SECONDS * sampleRate)
  const length = Math.max(1, seconds)
  const heard = through
    .run(pinkNoise(settle + Math.round(length * sampleRate), level))
    .map((c) => c.subarray(settle)) as [Float32Array, Float32Array]
  const bands = logBands(heard, sampleRate, BANDS, WINDOWS, [25, 20_000])
  const count = bands.frequencies.length
  const sum = (which: (b: number, w: number) => boolean): { correlation: number; width: number } => {
    let [l, r, c] = [0, 0, 0]
    for (let w = 0; w < WINDOWS; w++)
      for (let b = 0; b < count; b++)
        if (which(b, w)) {
          l += bands.left[w * count + b]
          r += bands.right[w * count + b]
          c += bands.cross[w * count + b]
        }
    return figuresOf(l, r, c)
  }
  const byBand = Array.from({ length: count }, (_, b) => sum((at) => at === b))
  const byTime = Array.from({ length: WINDOWS }, (_, w) => sum((_b, at) => at === w))
  const all = sum(() => true)
  const pair = (
    id: string,
    title: string,
    x: LabChart['x'],
    at: Float64Array,
    list: typeof byBand,
  ): LabChart[] => [
    {
      id: `correlation-${id}`,
      title: `Correlation ${title}`,
      x,
      y: { name: 'Correlation', unit: '', scale: 'linear', from: -1, to: 1 },
      curves: [{ name: '', x: at, y: Float64Array.from(list, (f) => f.correlation) }],
    },
    {
      id: `width-${id}`,
      title: `Width ${title}`,
      x,
      y: { name: 'Sides below the middle', unit: 'dB', scale: 'linear', from: -40, to: 10 },
      curves: [{ name: '', x: at, y: Float64Array.from(list, (f) => f.width) }],
    },
  ]
  return {
    charts: [
      ...pair('by-frequency', 'by frequency', frequencyAxis, bands.frequencies, byBand),
      ...pair(
        'over-time',
        'over time',
        { name: 'Time', unit: 's', scale: 'linear', from: 0, to: length },
        bands.times,
        byTime,
      ),
    ],
    figures: [
      { name: 'Correlation', value: all.correlation, unit: '' },
      { name: 'Width', value: all.width, unit: 'dB' },
    ],
  }
}

/** From powers of left, right and their product: correlation, and the sides in dB of the middle. */
function figuresOf(l: number, r: number, c: number): { correlation: number; width: number } {
  if (l + r < 1e-14) return { correlation: NaN, width: NaN }
  const [middle, sides] = [l + r + 2 * c, l + r - 2 * c]
  return {
    correlation: l * r > 0 ? c / Math.sqrt(l * r) : 0,
    width: Math.max(-60, Math.min(60, toDb(Math.max(1e-30, sides) / Math.max(1e-30, middle)) / 2)),
  }
}
