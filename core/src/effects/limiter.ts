import { poleFor, toDb } from '../dsp/math'
import { TRUE_PEAK_PHASES, TRUE_PEAK_TAPS, truePeakTable } from '../dsp/true-peak-table'
import { BLOCK } from '../contract/block'
import { boost, seconds } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/** Frames of look-ahead: 1.5 ms at 48 kHz, the same number at every rate so that latency is known beforehand. */
const AHEAD = 72
/** The detector hears between samples by interpolation, which wants so many that are still to come. */
const REACH = TRUE_PEAK_TAPS / 2

/**
 * Look-ahead limiter on true peaks: the gain each moment needs is held over the look-ahead, let go slowly, and averaged
 * over it, so it has arrived when the peak does. Peaks between samples are found at four times the rate
 * (ITU-R BS.1770-4, annex 2).
 */
export const limiter = defineEffect({
  id: 'limiter',
  name: 'Limiter',
  group: 'dynamics',
  tip: 'Never lets a true peak over its ceiling',
  readouts: ['gain change'],
  params: {
    gain: boost('Gain', { min: -12, max: 36, default: 0, tip: 'Gain into the limiter' }),
    ceiling: boost('Ceiling', { min: -24, max: 0, default: -1, tip: 'True peak that is never passed' }),
    release: seconds('Release', { min: 0.005, max: 2, default: 0.08, tip: 'Time in which it lets go' }),
  },
  latency: () => AHEAD + REACH,
  tail: (v) => 0.02 + 8 * v.release,
  presets: [
    { name: 'Safe', params: { ceiling: -1 } },
    { name: 'Louder', params: { gain: 6, ceiling: -1, release: 0.06 } },
    { name: 'Breathing', params: { gain: 9, ceiling: -2, release: 0.5 } },
    { name: 'Flat calm', params: { gain: 14, ceiling: -3, release: 0.02 } },
  ],
  create: ({ sampleRate }) => {
    const readouts = new Float64Array(1)
    const size = 256
    const mask = size - 1
    const rings = [new Float64Array(size), new Float64Array(size)]
    // gains that moments need, held gains, and their running sum
    const needed = new Float64Array(size)
    const held = new Float64Array(size)
    const state = new Float64Array(3)
    return {
      readouts,
      reset() {
        for (const r of rings) r.fill(0)
        needed.fill(1)
        held.fill(1)
        state[0] = 0
        state[1] = 1
        state[2] = AHEAD
        readouts[0] = 0
      },
      process({ in: input, out }, p) {
        let head = state[0] | 0
        let gain = state[1], sum = state[2]
        const gains = p.gain.values(), ceilings = p.ceiling.values()
        const pole = poleFor(p.release.value, sampleRate)
        let least = 1
        for (let i = 0; i < BLOCK; i++) {
          let peak = 0
          for (let c = 0; c < 2; c++) {
            const ring = rings[c]
            ring[head] = (c === 0 ? input.left[i] : input.right[i]) * gains[i]
            const at = head - 2 * REACH + 1
            for (let phase = 0; phase < TRUE_PEAK_PHASES; phase++) {
              const row = phase * TRUE_PEAK_TAPS
              let v = 0
              for (let k = 0; k < TRUE_PEAK_TAPS; k++) v += truePeakTable[row + k] * ring[(at + k) & mask]
              if (v < 0) v = -v
              if (v > peak) peak = v
            }
          }
          // a hair of room for what lies between the four places
          const wanted = peak > ceilings[i] * 0.995 ? ceilings[i] * 0.995 / peak : 1
          needed[head] = wanted
          let lowest = 1
          for (let k = 0; k <= AHEAD; k++) {
            const v = needed[(head - k) & mask]
            if (v < lowest) lowest = v
          }
          gain = lowest < gain ? lowest : lowest + pole * (gain - lowest)
          sum += gain - held[(head - AHEAD) & mask]
          held[head] = gain
          const g = sum / AHEAD
          if (g < least) least = g
          const from = (head - AHEAD - REACH) & mask
          out.left[i] = rings[0][from] * g
          out.right[i] = rings[1][from] * g
          head = (head + 1) & mask
        }
        state[0] = head
        state[1] = gain
        state[2] = sum
        readouts[0] = toDb(least)
      },
    }
  },
})
