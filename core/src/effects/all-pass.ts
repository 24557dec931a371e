import { tanPi } from '../dsp/math'
import { BLOCK } from '../contract/block'
import { choice, hertz, number } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/** Stages there can be. */
export const MOST_STAGES = 64

/**
 * A cascade of equal all-passes of first or second order (Zavalishin, The Art of VA Filter Design, 2012, ch.
 * 3 and 4): every frequency at its level, but later the nearer it lies to the corner. One stage with the dry
 * sound makes a filter, many smear a hit. The inverted sign gives the phase of the negative.
 */
export const allPass = defineEffect({
  id: 'all-pass',
  name: 'All-pass',
  group: 'filter',
  load: { kB: 28, ns: 75 },
  tip: 'Shifts phase without changing the level; many stages smear a hit',
  also: ['phase shift', 'first principles'],
  params: {
    order: choice('Order', ['first', 'second'], 0, 'Shifts the phase by 180° or 360° per stage'),
    frequency: hertz('Frequency', {
      min: 20,
      max: 20_000,
      default: 800,
      tip: 'Frequency at which each stage has shifted by half',
    }),
    resonance: number('Resonance', {
      min: 0.3,
      max: 40,
      default: 0.7071,
      law: 'log',
      tip: 'Q of the second order: how steep the phase shift is',
    }),
    stages: number('Stages', {
      min: 1,
      max: MOST_STAGES,
      default: 1,
      law: 'log',
      glide: 0,
      tip: 'Number of stages in series',
    }),
  },
  tail: (v) =>
    Math.min(
      16,
      0.1 + (Math.round(v.stages) * 6 * Math.max(1, v.order >= 0.5 ? v.resonance : 1)) / v.frequency,
    ),
  presets: [
    {
      name: 'Smeared hit',
      tip: 'Softens the attack of drums',
      params: { order: 1, stages: 48, frequency: 400, resonance: 1.2 },
    },
    { name: 'One turn', tip: 'A single 360° phase shift', params: { order: 1, frequency: 900 } },
    {
      name: 'For adding to dry',
      tip: 'Becomes a filter beside the dry sound',
      params: { order: 0, frequency: 600 },
    },
    {
      name: 'Falling drop',
      tip: 'Makes clicks fall like drops',
      params: { order: 1, stages: 24, frequency: 1400, resonance: 3 },
    },
  ],
  create: ({ sampleRate }) => {
    const state = new Float64Array(4 * MOST_STAGES)
    const gs = new Float64Array(BLOCK)
    return {
      reset() {
        state.fill(0)
      },
      process({ in: input, out }, p) {
        const stages = Math.round(p.stages.value)
        const f = p.frequency.values()
        if (p.frequency.constant) gs.fill(tanPi(Math.min(0.49, p.frequency.value / sampleRate)))
        else
          for (let i = 0; i < BLOCK; i++) gs[i] = tanPi(f[i] > 0.49 * sampleRate ? 0.49 : f[i] / sampleRate)
        out.left.set(input.left)
        out.right.set(input.right)
        const qs = p.resonance.values()
        for (let s = 0; s < stages; s++) {
          if (p.order.value === 0) {
            first(out.left, gs, state, 4 * s)
            first(out.right, gs, state, 4 * s + 2)
          } else {
            second(out.left, gs, qs, state, 4 * s)
            second(out.right, gs, qs, state, 4 * s + 2)
          }
        }
        // stages left out start from rest when they come back
        for (let k = 4 * stages; k < state.length; k++) state[k] = 0
      },
    }
  },
})

function first(x: Float32Array, g: Float64Array, state: Float64Array, at: number): void {
  let s = state[at]
  for (let i = 0; i < BLOCK; i++) {
    const v = ((x[i] - s) * g[i]) / (1 + g[i])
    const low = v + s
    s = low + v
    // low-pass minus high-pass
    x[i] = 2 * low - x[i]
  }
  state[at] = s > 1e-18 || s < -1e-18 ? s : 0
}

function second(x: Float32Array, g: Float64Array, q: Float64Array, state: Float64Array, at: number): void {
  let s1 = state[at],
    s2 = state[at + 1]
  for (let i = 0; i < BLOCK; i++) {
    const k = 1 / q[i]
    const gi = g[i]
    const v1 = (s1 + gi * (x[i] - s2)) / (1 + gi * (gi + k))
    const v2 = s2 + gi * v1
    s1 = 2 * v1 - s1
    s2 = 2 * v2 - s2
    x[i] = x[i] - 2 * k * v1
  }
  state[at] = s1 > 1e-18 || s1 < -1e-18 ? s1 : 0
  state[at + 1] = s2 > 1e-18 || s2 < -1e-18 ? s2 : 0
}
