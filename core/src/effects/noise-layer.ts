import { poleFor, tanPi } from '../dsp/math'
import { Random } from '../dsp/random'
import { tangents } from '../dsp/tangents'
import { BLOCK } from '../contract/block'
import { choice, gain, hertz, number, percent, seconds } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/** Band-passed noise that follows the level of the sound, added to it or multiplied with it. */
export const noiseLayer = defineEffect({
  id: 'noise-layer',
  name: 'Noise layer',
  group: 'dirt',
  movesByItself: true,
  load: { kB: 43, ns: 70 },
  tip: 'Adds filtered noise that follows the level of the sound',
  also: ['hiss', 'texture', 'wind'],
  params: {
    how: choice('How', ['added', 'multiplied'], 0, 'Adds the noise, or multiplies the sound by it'),
    level: gain('Level', { min: -72, max: 12, default: -12, tip: 'Level of the noise against the sound' }),
    frequency: hertz('Frequency', {
      min: 60,
      max: 18_000,
      default: 3000,
      tip: 'Centre frequency of the noise band',
    }),
    resonance: number('Resonance', {
      min: 0.3,
      max: 30,
      default: 1.2,
      law: 'log',
      tip: 'Q of the noise band',
    }),
    attack: seconds('Attack', { min: 0.0005, max: 0.5, default: 0.002, tip: 'Time to follow a rise' }),
    release: seconds('Release', { min: 0.005, max: 3, default: 0.12, tip: 'Time to follow a fall' }),
    width: percent('Width', { default: 1, tip: 'Stereo width of the noise; 0 % is mono' }),
  },
  tail: (v) => 14 * v.release + 0.1,
  presets: [
    {
      name: 'Breath',
      tip: 'Soft air around the sound',
      params: { level: -14, frequency: 5000, resonance: 0.7, attack: 0.01 },
    },
    {
      name: 'Gravel',
      tip: 'Rough, low noise',
      params: { how: 1, level: -6, frequency: 900, resonance: 0.8 },
    },
    {
      name: 'Rattle wires',
      tip: 'Snare wires for drums',
      params: { level: -10, frequency: 4200, resonance: 0.6, release: 0.18 },
    },
    { name: 'Whistle', tip: 'Narrow, high noise', params: { level: -16, frequency: 2600, resonance: 14 } },
  ],
  create: ({ sampleRate, seed }) => {
    const random = new Random(seed)
    // envelope, and two integrators a side
    const state = new Float64Array(5)
    const gs = new Float64Array(BLOCK)
    const one = new Float64Array(BLOCK)
    const other = new Float64Array(BLOCK)
    return {
      reset() {
        random.reset()
        state.fill(0)
      },
      process({ in: input, out }, p) {
        let envelope = state[0],
          l1 = state[1],
          l2 = state[2],
          r1 = state[3],
          r2 = state[4]
        const f = p.frequency.values(),
          qs = p.resonance.values(),
          levels = p.level.values(),
          widths = p.width.values()
        const attack = poleFor(p.attack.value, sampleRate),
          release = poleFor(p.release.value, sampleRate)
        random.fill(one)
        random.fill(other)
        const multiplied = p.how.value === 1
        if (p.frequency.constant) gs.fill(tanPi(Math.min(0.49, f[0] / sampleRate)))
        else tangents(f, 1 / sampleRate, gs)
        for (let i = 0; i < BLOCK; i++) {
          const x = Math.max(Math.abs(input.left[i]), Math.abs(input.right[i]))
          envelope = x + (x > envelope ? attack : release) * (envelope - x)
          const g = gs[i]
          const k = 1 / qs[i]
          const d = 1 / (1 + g * (g + k))
          const n = one[i]
          const m = n + widths[i] * (other[i] - n)
          const lv = d * (l1 + g * (n - l2))
          const rv = d * (r1 + g * (m - r2))
          l1 = 2 * lv - l1
          l2 += 2 * g * lv
          r1 = 2 * rv - r1
          r2 += 2 * g * rv
          // as loud in a narrow band as in a wide one
          const w = levels[i] * Math.sqrt(k) * 2.2
          if (multiplied) {
            out.left[i] = input.left[i] * (1 + lv * w * 3)
            out.right[i] = input.right[i] * (1 + rv * w * 3)
          } else {
            out.left[i] = input.left[i] + lv * w * envelope
            out.right[i] = input.right[i] + rv * w * envelope
          }
        }
        state[0] = envelope < 1e-9 ? 0 : envelope
        state[1] = l1
        state[2] = l2
        state[3] = r1
        state[4] = r2
      },
    }
  },
})
