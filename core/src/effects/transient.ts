import { exp2, log2, poleFor } from '../dsp/math'
import { BLOCK } from '../contract/block'
import { decibel, seconds } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/**
 * Raises or lowers the beginnings of sounds and what rings after them, whatever their level: the difference
 * between a fast and a slow follower says which of the two is heard now.
 */
export const transient = defineEffect({
  id: 'transient',
  name: 'Transient',
  group: 'dynamics',
  load: { kB: 28, ns: 140 },
  tip: 'Raises or lowers attack and sustain, independent of level',
  also: ['attack', 'punch', 'sustain'],
  readouts: ['gain change'],
  params: {
    attack: decibel('Attack', { min: -24, max: 24, default: 6, tip: 'Level of attacks' }),
    sustain: decibel('Sustain', { min: -24, max: 24, default: 0, tip: 'Level of the sustain after attacks' }),
    length: seconds('Length', { min: 0.005, max: 0.3, default: 0.04, tip: 'Length of an attack' }),
  },
  tail: (v) => 50 * v.length,
  presets: [
    { name: 'Harder sticks', tip: 'More attack', params: { attack: 9 } },
    { name: 'Padded', tip: 'Less attack', params: { attack: -9, sustain: 3 } },
    { name: 'Dry room', tip: 'Less sustain', params: { attack: 3, sustain: -12 } },
    { name: 'Long tails', tip: 'More sustain', params: { attack: 0, sustain: 9, length: 0.06 } },
  ],
  create: ({ sampleRate }) => {
    const readouts = new Float64Array(1)
    const state = new Float64Array(4)
    const up = poleFor(0.0008, sampleRate)
    const smooth = poleFor(0.0015, sampleRate)
    return {
      readouts,
      reset() {
        state.fill(0)
      },
      process({ in: input, out }, p) {
        let fast = state[0],
          slow = state[1],
          tail = state[2],
          gain = state[3]
        const attacks = p.attack.values(),
          sustains = p.sustain.values()
        const rise = poleFor(p.length.value, sampleRate)
        const fallFast = poleFor(0.6 * p.length.value, sampleRate)
        const fallSlow = poleFor(6 * p.length.value, sampleRate)
        for (let i = 0; i < BLOCK; i++) {
          const l = input.left[i] < 0 ? -input.left[i] : input.left[i]
          const r = input.right[i] < 0 ? -input.right[i] : input.right[i]
          const x = l > r ? l : r
          fast = x + (x > fast ? up : fallFast) * (fast - x)
          slow = fast + (fast > slow ? rise : fallFast) * (slow - fast)
          tail = fast + (fast > tail ? up : fallSlow) * (tail - fast)
          // octaves that the fast follower is over the slow one, and the slow-falling one over the fast
          const over = log2((fast + 1e-5) / (slow + 1e-5))
          const after = log2((tail + 1e-5) / (fast + 1e-5))
          const a = over > 1 ? 1 : over < 0 ? 0 : over
          const s = after > 1 ? 1 : after < 0 ? 0 : after
          const wanted = attacks[i] * a + sustains[i] * s
          gain = wanted + smooth * (gain - wanted)
          const g = exp2(gain * 0.16609640474436813)
          out.left[i] = input.left[i] * g
          out.right[i] = input.right[i] * g
        }
        state[0] = fast < 1e-15 ? 0 : fast
        state[1] = slow < 1e-15 ? 0 : slow
        state[2] = tail < 1e-15 ? 0 : tail
        state[3] = gain < 1e-12 && gain > -1e-12 ? 0 : gain
        readouts[0] = gain
      },
    }
  },
})
