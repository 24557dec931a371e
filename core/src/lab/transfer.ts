import { fromDb } from '../dsp/math'
import type { LabResult } from './result'
import type { LabSettings } from './settings'
import { TONE_FRAMES, cyclesNear, hertzOf, tones } from './signals'
import type { Through } from './through'

/** Seconds before the cycle that is drawn. */
const SETTLE = 0.5

/** Output over input during one cycle of a sine: a line for a curve, a loop for what has a memory. */
export function transfer(through: Through, { level, frequency }: LabSettings): LabResult {
  const { sampleRate } = through
  const cycles = cyclesNear(frequency, sampleRate)
  const lead = Math.ceil((SETTLE * sampleRate) / TONE_FRAMES) * TONE_FRAMES
  const signal = tones([[{ cycles, height: fromDb(level) }]], lead + TONE_FRAMES, sampleRate)
  const heard = through.run(signal)
  const period = Math.ceil(TONE_FRAMES / cycles) + 1
  const from = lead
  const x = Float64Array.from(signal[0].subarray(from, from + period))
  const curves = heard.map((c, side) => ({
    name: side === 0 ? 'left' : 'right',
    x,
    y: Float64Array.from(c.subarray(from, from + period)),
  }))
  const [left] = curves
  const isMono = left?.y.every((v, i) => v === curves[1]?.y[i])
  const most = (y: Float64Array): number => y.reduce((a, b) => Math.max(a, b), -Infinity)
  const least = (y: Float64Array): number => y.reduce((a, b) => Math.min(a, b), Infinity)
  return {
    charts: [
      {
        id: 'transfer',
        title: 'Transfer curve',
        x: { name: 'Input', unit: '', scale: 'linear' },
        y: { name: 'Output', unit: '', scale: 'linear' },
        curves: isMono && left ? [{ ...left, name: '' }] : curves,
      },
    ],
    figures: [
      { name: 'Tone', value: hertzOf(cycles, sampleRate), unit: 'Hz' },
      { name: 'Highest', value: left ? most(left.y) : null, unit: '' },
      { name: 'Lowest', value: left ? least(left.y) : null, unit: '' },
    ],
  }
}
