import { sineOf } from '../dsp/sines'
import { exp2, tanPi } from '../dsp/math'
import { BLOCK } from '../contract/block'
import { degrees, hertz, number, percent } from '../units/parameter'
import { defineEffect } from '../contract/effect'

const MOST = 12

/**
 * A swept cascade of first-order all-passes mixed with what goes in, with feedback around it (Smith 1984).
 */
export const phaser = defineEffect({
  id: 'phaser',
  name: 'Phaser',
  group: 'filter',
  movesByItself: true,
  load: { kB: 29, ns: 260 },
  tip: 'Sweeps notches through the spectrum',
  also: ['phase', 'sweep'],
  params: {
    frequency: hertz('Frequency', { min: 40, max: 10_000, default: 700, tip: 'Centre of the sweep' }),
    depth: percent('Depth', { default: 0.6, tip: 'Width of the sweep, up to two octaves each way' }),
    rate: hertz('Rate', { min: 0.01, max: 20, default: 0.3, tip: 'Sweeps per second' }),
    stages: number('Stages', {
      min: 2,
      max: MOST,
      default: 6,
      glide: 0,
      tip: 'Number of all-pass stages, two per notch',
    }),
    feedback: percent('Feedback', {
      min: -0.95,
      max: 0.95,
      default: 0.4,
      tip: 'Sharpens the peaks between the notches',
    }),
    stereo: degrees('Stereo', {
      min: 0,
      max: 0.5,
      default: 0.25,
      tip: 'Phase offset of the right side',
    }),
    mix: percent('Mix', { default: 0.5, tip: 'Balance of dry and wet; notches are deepest at 50 %' }),
  },
  tail: (v) => 0.3 + 2 * Math.abs(v.feedback),
  presets: [
    { name: 'Slow swell', tip: 'Gentle, slow sweep', params: { rate: 0.08, depth: 0.8 } },
    { name: 'Sharp edges', tip: 'Strong resonance', params: { stages: 10, feedback: 0.75, rate: 0.2 } },
    {
      name: 'Static, for a link',
      tip: 'Still until a link moves it',
      params: { depth: 0, stages: 8, feedback: 0.5 },
    },
    { name: 'Hollow', tip: 'Deep notches', params: { feedback: -0.7, rate: 0.5, depth: 0.5 } },
  ],
  create: ({ sampleRate }) => {
    const stages = new Float64Array(2 * MOST)
    // phase, last output left and right
    const state = new Float64Array(3)
    return {
      reset() {
        stages.fill(0)
        state.fill(0)
      },
      advance(frames, p) {
        state[0] +=
          (frames * p.rate.value) / sampleRate - Math.floor(state[0] + (frames * p.rate.value) / sampleRate)
      },
      process({ in: input, out }, p) {
        const count = 2 * Math.round(p.stages.value / 2)
        const f = p.frequency.values(),
          depths = p.depth.values(),
          rates = p.rate.values(),
          fbs = p.feedback.values(),
          apart = p.stereo.values(),
          mixes = p.mix.values()
        let phase = state[0]
        for (let i = 0; i < BLOCK; i++) {
          phase += rates[i] / sampleRate
          for (let c = 0; c < 2; c++) {
            const hz = f[i] * exp2(2 * depths[i] * sineOf(phase - c * apart[i]))
            const g = tanPi(hz > 0.45 * sampleRate ? 0.45 : hz / sampleRate)
            const a = g / (1 + g)
            const x = c === 0 ? input.left[i] : input.right[i]
            let v = x + fbs[i] * state[1 + c]
            for (let k = c * MOST; k < c * MOST + count; k++) {
              const u = (v - stages[k]) * a
              const low = u + stages[k]
              stages[k] = low + u
              v = 2 * low - v
            }
            state[1 + c] = v
            const y = x + (v - x) * mixes[i]
            if (c === 0) out.left[i] = y
            else out.right[i] = y
          }
        }
        state[0] = phase - Math.floor(phase)
        for (let k = 0; k < stages.length; k++) if (stages[k] < 1e-18 && stages[k] > -1e-18) stages[k] = 0
        for (let c = 1; c < 3; c++) if (state[c] < 1e-18 && state[c] > -1e-18) state[c] = 0
      },
    }
  },
})
