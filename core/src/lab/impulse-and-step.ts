import type { LabChart, LabCurve, LabResult } from './result'
import type { LabSettings } from './settings'
import { impulse, step } from './signals'
import type { Through } from './through'

/** Height of both: low enough for what saturates near full scale. */
const HEIGHT = 0.25
/** Seconds that are shown at most. */
const MOST = 0.1

/** Response to one sample, and to a step that stays, both as shares of what goes in. */
export function impulseAndStep(through: Through, { seconds }: LabSettings): LabResult {
  const { sampleRate } = through
  const frames = Math.round(Math.min(MOST, seconds) * sampleRate)
  const x = Float64Array.from({ length: frames }, (_, i) => (i * 1000) / sampleRate)
  const curves = (signal: Parameters<Through['run']>[0]): LabCurve[] => {
    const [left, right] = through.run(signal).map((c) => Float64Array.from(c, (v) => v / HEIGHT))
    const isMono = left?.every((v, i) => v === right?.[i])
    return (isMono ? [left] : [left, right]).map((y, side) => ({
      name: isMono ? '' : side === 0 ? 'left' : 'right',
      x,
      y: y as Float64Array,
    }))
  }
  const chart = (id: string, title: string, list: LabCurve[]): LabChart => ({
    id,
    title,
    x: { name: 'Time', unit: 'ms', scale: 'linear', from: 0 },
    y: { name: 'Amplitude', unit: '', scale: 'linear' },
    curves: list,
  })
  const struck = curves(impulse(frames, HEIGHT))
  const stepped = curves(step(frames, HEIGHT))
  const heights = struck.map((c) => c.y.reduce((most, v) => (Math.abs(v) > Math.abs(most) ? v : most), 0))
  const highest = struck[0]?.y.indexOf(heights[0] ?? 0) ?? -1
  return {
    charts: [chart('impulse', 'Impulse response', struck), chart('step', 'Step response', stepped)],
    figures: [
      { name: 'Highest sample', value: heights[0] ?? null, unit: '' },
      { name: 'It comes after', value: highest < 0 ? null : (highest * 1000) / sampleRate, unit: 'ms' },
      { name: 'Step ends at', value: stepped[0]?.y.at(-1) ?? null, unit: '' },
    ],
  }
}
