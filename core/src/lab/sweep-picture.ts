import { toDb } from '../dsp/math'
import { logBands } from './log-bands'
import { type LabResult, frequencyAxis } from './result'
import type { LabSettings } from './settings'
import { sweep } from './signals'
import type { Through } from './through'

const SECONDS = 4
const BANDS = 12
const WINDOWS = 120
const FLOOR = -120

/** Level by frequency and time of what a chain makes of a rising sine. */
export function sweepPicture(through: Through, { level }: LabSettings): LabResult {
  const frames = SECONDS * through.sampleRate
  const heard = through.run(sweep(frames, through.sampleRate, level, 20)).map((c) => c.subarray(0, frames))
  const bands = logBands(heard as [Float32Array, Float32Array], through.sampleRate, BANDS, WINDOWS)
  const count = bands.frequencies.length
  const power = (band: number, w: number): number =>
    bands.left[w * count + band] + bands.right[w * count + band]
  // deep bands are narrower than the bins of the transform: one without a bin is shown as the next above it
  const hasBin = Array.from({ length: count }, (_, b) => bands.bins[b] > 0)
  const values = new Float32Array(count * WINDOWS)
  for (let b = 0; b < count; b++) {
    const shown = Math.max(b, hasBin.indexOf(true, b))
    for (let w = 0; w < WINDOWS; w++)
      values[b * WINDOWS + w] = Math.max(FLOOR, toDb(Math.max(1e-20, power(shown, w))) / 2)
  }
  return {
    charts: [
      {
        id: 'sweep',
        title: 'Sweep',
        x: { name: 'Time', unit: 's', scale: 'linear', from: 0, to: SECONDS },
        y: frequencyAxis,
        curves: [],
        map: { x: bands.times, y: bands.frequencies, values, least: FLOOR, most: 0 },
      },
    ],
    figures: [],
  }
}
