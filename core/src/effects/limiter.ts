import { fromDb, poleFor, toDb } from '../dsp/math'
import { RunningMinimum } from '../dsp/running-minimum'
import { TRUE_PEAK_DELAY, TruePeakDetector } from '../dsp/true-peak'
import { BLOCK } from '../contract/block'
import { boost, seconds } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/**
 * Frames of look-ahead: 1.5 ms at 48 kHz, the same number at every rate so that latency is known beforehand.
 */
const AHEAD = 72
/** Margin below the ceiling for the moving gain and for peaks between the examined positions. */
const ROOM = fromDb(-0.05)

/**
 * Look-ahead limiter on true peaks: the gain each moment needs is held over the look-ahead, let go slowly,
 * and averaged over it, so it has arrived when the peak does. Peaks between samples are found at eight times
 * the rate (ITU-R BS.1770-4, annex 2).
 */
export const limiter = defineEffect({
  id: 'limiter',
  name: 'Limiter',
  group: 'dynamics',
  load: { kB: 44, ns: 170 },
  tip: 'Keeps true peaks below its ceiling',
  also: ['clip', 'brickwall', 'ceiling', 'true peak'],
  readouts: ['gain change'],
  params: {
    gain: boost('Gain', { min: -12, max: 36, default: 0, tip: 'Input gain' }),
    ceiling: boost('Ceiling', { min: -24, max: 0, default: -1, tip: 'Highest true peak of the output' }),
    release: seconds('Release', { min: 0.005, max: 2, default: 0.08, tip: 'Recovery time' }),
  },
  latency: () => AHEAD + TRUE_PEAK_DELAY,
  acts: (path) => (path === 'gain' ? 0 : TRUE_PEAK_DELAY),
  tail: (v) => 0.02 + 8 * v.release,
  presets: [
    { name: 'Safe', tip: '−1 dBTP, transparent', params: { ceiling: -1 } },
    { name: 'Louder', tip: 'Up to 6 dB louder', params: { gain: 6, ceiling: -1, release: 0.06 } },
    { name: 'Breathing', tip: 'Slow, audible release', params: { gain: 9, ceiling: -2, release: 0.5 } },
    { name: 'Flat calm', tip: 'Maximum density', params: { gain: 14, ceiling: -3, release: 0.02 } },
  ],
  create: ({ sampleRate }) => {
    const readouts = new Float64Array(1)
    const size = 256
    const mask = size - 1
    const rings = [new Float64Array(size), new Float64Array(size)]
    const detectors = [new TruePeakDetector(BLOCK), new TruePeakDetector(BLOCK)]
    const peaks = new Float64Array(BLOCK)
    // a peak lies between two samples, both of which must be lowered
    const minimum = new RunningMinimum(AHEAD + 2)
    const held = new Float64Array(size)
    const state = new Float64Array(3)
    return {
      readouts,
      reset() {
        for (const r of rings) r.fill(0)
        for (const d of detectors) d.reset()
        minimum.reset()
        held.fill(1)
        state[HEAD] = 0
        state[GAIN] = 1
        state[SUM] = AHEAD
        readouts[0] = 0
      },
      process({ in: input, out }, p) {
        let head = state[HEAD] | 0
        let gain = state[GAIN],
          sum = state[SUM]
        const gains = p.gain.values(),
          ceilings = p.ceiling.values()
        const pole = poleFor(p.release.value, sampleRate)
        const [left, right] = rings
        const detectL = detectors[0].input,
          detectR = detectors[1].input
        for (let i = 0; i < BLOCK; i++) {
          left[(head + i) & mask] = detectL[i] = input.left[i] * gains[i]
          right[(head + i) & mask] = detectR[i] = input.right[i] * gains[i]
        }
        peaks.fill(0)
        detectors[0].process(peaks, BLOCK)
        detectors[1].process(peaks, BLOCK)
        for (let i = 0; i < BLOCK; i++)
          peaks[i] = Math.min(1, (ceilings[i] * ROOM) / Math.max(1e-9, peaks[i]))
        minimum.process(peaks, peaks)
        let least = 1
        for (let i = 0; i < BLOCK; i++) {
          const lowest = peaks[i]
          gain = lowest < gain ? lowest : lowest + pole * (gain - lowest)
          sum += gain - held[(head - AHEAD) & mask]
          held[head] = gain
          const g = sum / AHEAD
          least = Math.min(least, g)
          const from = (head - AHEAD - TRUE_PEAK_DELAY) & mask
          out.left[i] = left[from] * g
          out.right[i] = right[from] * g
          head = (head + 1) & mask
        }
        state[HEAD] = head
        state[GAIN] = gain
        state[SUM] = sum
        readouts[0] = toDb(least)
      },
    }
  },
})

// places of its state: write place of the rings, gain before it is averaged, and the sum that it is averaged
// from
const HEAD = 0,
  GAIN = 1,
  SUM = 2
