import type { LabResult } from './result'
import { impulse } from './signals'
import type { Through } from './through'

const HEIGHT = 0.25
const FRAMES = 4096

/**
 * The latency that a chain declares, and where a click arrives once that has been taken off: its strongest
 * sample and the middle of its energy.
 */
export function latency(through: Through): LabResult {
  const { sampleRate, latency: declared } = through
  const [left] = through.run(impulse(FRAMES, HEIGHT))
  let [peak, energy, moment] = [0, 0, 0]
  for (let i = 0; i < FRAMES; i++) {
    if (Math.abs(left[i]) > Math.abs(left[peak])) peak = i
    energy += left[i] ** 2
    moment += i * left[i] ** 2
  }
  const ms = (frames: number): number => (frames * 1000) / sampleRate
  const isHeard = energy > 0
  return {
    charts: [
      {
        id: 'arrival',
        title: 'Arrival of a click',
        x: { name: 'Time after the declared latency', unit: 'ms', scale: 'linear', from: 0, to: 10 },
        y: { name: 'Amplitude', unit: '', scale: 'linear' },
        curves: [
          {
            name: '',
            x: Float64Array.from({ length: Math.round(sampleRate / 100) }, (_, i) => ms(i)),
            y: Float64Array.from(left.subarray(0, Math.round(sampleRate / 100)), (v) => v / HEIGHT),
          },
        ],
      },
    ],
    figures: [
      { name: 'Declared', value: declared, unit: 'samples' },
      { name: 'Declared', value: ms(declared), unit: 'ms' },
      { name: 'Click arrives after', value: isHeard ? declared + peak : null, unit: 'samples' },
      { name: 'Click arrives after', value: isHeard ? ms(declared + peak) : null, unit: 'ms' },
      { name: 'Middle of its energy', value: isHeard ? ms(declared + moment / energy) : null, unit: 'ms' },
    ],
  }
}
