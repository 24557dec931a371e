import type { Stereo } from '../contract/audio'
import { fromDb, toDb } from '../dsp/math'
import { logBands } from './log-bands'
import { type LabResult, frequencyAxis } from './result'
import type { LabSettings } from './settings'
import type { Through } from './through'

const SETTLE_SECONDS = 1
const BANDS = 3
const WINDOWS = 40
const FLOOR = -160

/** Gain of the A weighting at a frequency in dB (IEC 61672-1). */
export function aWeighting(hz: number): number {
  const f = hz * hz
  const gain =
    (12194 ** 2 * f * f) /
    ((f + 20.6 ** 2) * Math.sqrt((f + 107.7 ** 2) * (f + 737.9 ** 2)) * (f + 12194 ** 2))
  return toDb(gain) + 2
}

/** Noise that a chain makes of silence: by thirds of an octave, and all of it. */
export function noiseFloor(through: Through, { seconds }: LabSettings): LabResult {
  const { sampleRate } = through
  const settle = SETTLE_SECONDS * sampleRate
  const frames = settle + Math.round(Math.max(1, seconds) * sampleRate)
  const heard = through
    .run([new Float32Array(frames), new Float32Array(frames)])
    .map((c) => c.subarray(settle)) as unknown as Stereo
  const bands = logBands(heard, sampleRate, BANDS, WINDOWS, [25, 20_000])
  const count = bands.frequencies.length
  const power = Float64Array.from({ length: count }, (_, b) => {
    let sum = 0
    for (let w = 0; w < WINDOWS; w++) sum += (bands.left[w * count + b] + bands.right[w * count + b]) / 2
    return sum / WINDOWS
  })
  const level = (p: number): number => Math.max(FLOOR, toDb(Math.max(1e-30, p)) / 2)
  let all = 0
  let peak = 0
  for (const side of heard)
    for (const v of side) {
      all += (v * v) / 2 / side.length
      peak = Math.max(peak, Math.abs(v))
    }
  const weighted = power.reduce((sum, p, b) => sum + p * fromDb(2 * aWeighting(bands.frequencies[b])), 0)
  return {
    charts: [
      {
        id: 'noise',
        title: 'Noise floor by third of an octave',
        x: frequencyAxis,
        y: { name: 'Level', unit: 'dBFS', scale: 'linear' },
        curves: [{ name: '', x: bands.frequencies, y: power.map(level) }],
      },
    ],
    figures: [
      { name: 'RMS', value: all > 0 ? level(all) : null, unit: 'dBFS' },
      { name: 'RMS, A-weighted', value: weighted > 0 ? level(weighted) : null, unit: 'dBFS' },
      { name: 'Peak', value: peak > 0 ? toDb(peak) : null, unit: 'dBFS' },
    ],
  }
}
