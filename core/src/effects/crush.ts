import { Random } from '../dsp/random'
import { onePoleWeight } from '../dsp/one-pole'
import { exp2 } from '../dsp/math'
import { BLOCK, peakOf } from '../engine/block'
import { hertz, number, percent, toggle } from '../units/parameter'
import { defineEffect } from './definition'

/**
 * Fewer bits and fewer samples, with an uneven clock. With `smooth`, what would fold back at the lower rate is filtered
 * out before it, and the steps after it.
 */
export const crush = defineEffect({
  id: 'crush',
  name: 'Crush',
  group: 'dirt',
  tip: 'Fewer bits and fewer samples',
  params: {
    bits: number('Bits', { min: 1, max: 16, default: 8, tip: 'Steps of level, as a power of two; fractions are fine' }),
    rate: hertz('Rate', { min: 100, max: 48_000, default: 12_000, tip: 'Samples a second that are left' }),
    jitter: percent('Jitter', { default: 0, tip: 'Unevenness of the clock' }),
    smooth: toggle('Smooth', false, 'Filters before and after, so that nothing folds back'),
  },
  readouts: ['input'],
  tail: () => 0.02,
  create: ({ sampleRate, seed }) => {
    const random = new Random(seed)
    // clock, held left and right; filters before and after, two poles a side
    const state = new Float64Array(3)
    const poles = new Float64Array(8)
    const readouts = new Float64Array(1)
    return {
      readouts,
      reset() {
        random.reset()
        state.fill(0)
        poles.fill(0)
      },
      process({ in: input, out }, p) {
        const bits = p.bits.values(), rates = p.rate.values(), jitters = p.jitter.values()
        readouts[0] = peakOf(input)
        const smooth = p.smooth.value === 1
        let clock = state[0], left = state[1], right = state[2]
        let levels = exp2(bits[0] - 1)
        let w = smooth ? onePoleWeight(0.4 * Math.min(rates[0], sampleRate), sampleRate) : 1
        for (let i = 0; i < BLOCK; i++) {
          if (!p.bits.constant) levels = exp2(bits[i] - 1)
          if (smooth && !p.rate.constant) w = onePoleWeight(0.4 * Math.min(rates[i], sampleRate), sampleRate)
          let l = input.left[i]
          let r = input.right[i]
          if (smooth) {
            l = poles[1] += w * ((poles[0] += w * (l - poles[0])) - poles[1])
            r = poles[3] += w * ((poles[2] += w * (r - poles[2])) - poles[3])
          }
          clock += rates[i] / sampleRate
          if (clock >= 1) {
            clock -= Math.floor(clock)
            if (jitters[i] > 0) clock -= 0.9 * jitters[i] * random.next()
            left = Math.round(l * levels) / levels
            right = Math.round(r * levels) / levels
          }
          let y = left
          let z = right
          if (smooth) {
            y = poles[5] += w * ((poles[4] += w * (y - poles[4])) - poles[5])
            z = poles[7] += w * ((poles[6] += w * (z - poles[6])) - poles[7])
          }
          out.left[i] = y
          out.right[i] = z
        }
        state[0] = clock
        state[1] = left
        state[2] = right
        for (let k = 0; k < 8; k++) if (poles[k] < 1e-18 && poles[k] > -1e-18) poles[k] = 0
      },
    }
  },
})
