import { fromDb } from '../dsp/math'
import { type LabResult, levelAxis } from './result'
import { TONE_FRAMES, type Tone, cyclesNear } from './signals'
import type { Through } from './through'
import { heldSpectra, ratioDb } from './tone-spectrum'

const LEVELS = Array.from({ length: 21 }, (_, i) => -40 + 2 * i)
/** Pairs of side tones that count. */
const ORDERS = 4

/** Two tones of which the lower is four times as high as the other (SMPTE RP 120). */
const smpte = (sampleRate: number): readonly [low: number, high: number] => [
  cyclesNear(60, sampleRate),
  cyclesNear(7000, sampleRate),
]
/** Two tones of one height, 1 kHz apart (difference tones, IEC 60268-3; CCIF). */
const ccif = (sampleRate: number): readonly [low: number, high: number] => {
  const low = cyclesNear(19_000, sampleRate)
  return [low, low + Math.round((1000 * TONE_FRAMES) / sampleRate)]
}

/** Side tones around the high tone, in dB of it. */
export function smpteOf(peaks: Float64Array, [low, high]: readonly [number, number]): number {
  let power = 0
  for (let n = 1; n <= ORDERS; n++) power += peaks[high - n * low] ** 2 + peaks[high + n * low] ** 2
  return peaks[high] > 1e-9 ? ratioDb(Math.sqrt(power) / peaks[high]) : NaN
}

/** The difference tone and those beside the two, in dB of both together. */
export function ccifOf(peaks: Float64Array, [low, high]: readonly [number, number]): number {
  const at = [high - low, 2 * low - high, 2 * high - low].filter((bin) => bin < peaks.length)
  const power = at.reduce((sum, bin) => sum + peaks[bin] ** 2, 0)
  const tones = peaks[low] + peaks[high]
  return tones > 1e-9 ? ratioDb(Math.sqrt(power) / tones) : NaN
}

/** Intermodulation of two pairs of tones as their peak rises from −40 dBFS to full scale. */
export function intermodulation(through: Through): LabResult {
  const { sampleRate } = through
  const pairs = [
    { name: 'SMPTE, 60 Hz and 7 kHz', bins: smpte(sampleRate), heights: [0.8, 0.2], of: smpteOf },
    { name: 'CCIF, 19 and 20 kHz', bins: ccif(sampleRate), heights: [0.5, 0.5], of: ccifOf },
  ]
  const x = Float64Array.from(LEVELS)
  const curves = pairs.map(({ name, bins, heights, of }) => {
    const list = LEVELS.map((db) =>
      bins.map((cycles, i): Tone => ({ cycles, height: (heights[i] ?? 0) * fromDb(db) })),
    )
    return {
      name,
      x,
      y: Float64Array.from(heldSpectra(through, list), (peaks) => of(peaks, bins)),
    }
  })
  return {
    charts: [
      {
        id: 'intermodulation',
        title: 'Intermodulation by level',
        x: levelAxis('Peak of both tones', -40, 0),
        y: levelAxis('Intermodulation'),
        curves,
      },
    ],
    figures: curves.map(({ name, y }) => ({
      name: `${name.split(',')[0]} at 0 dBFS`,
      value: y.at(-1) ?? null,
      unit: 'dB',
    })),
  }
}
