import { tanPi } from '../dsp/math'
import { tangents } from '../dsp/tangents'
import { BLOCK } from '../contract/block'
import { choice, gain, hertz, pan, percent } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/**
 * Place and width: middle and sides at their own levels, polarity and swap of the channels, mono below a
 * frequency.
 */
export const stereo = defineEffect({
  id: 'stereo',
  name: 'Stereo',
  group: 'level',
  load: { kB: 22, ns: 170 },
  tip: 'Pan, width, mid/side levels, polarity, and mono below a frequency',
  also: ['pan', 'width', 'balance', 'mid side', 'mono'],
  params: {
    pan: pan('Pan', { tip: 'Position between left and right' }),
    width: percent('Width', { max: 2, default: 1, tip: 'Stereo width: 0 % is mono, 200 % is sides only' }),
    mid: gain('Middle', { min: -72, max: 12, default: 0, tip: 'Level of the mid signal' }),
    side: gain('Sides', { min: -72, max: 12, default: 0, tip: 'Level of the side signal' }),
    channels: choice(
      'Channels',
      ['as they are', 'swapped', 'left to both', 'right to both'],
      0,
      'Channel routing',
    ),
    polarity: choice(
      'Polarity',
      ['as it is', 'left inverted', 'right inverted', 'both inverted'],
      0,
      'Inverts the polarity of channels',
    ),
    monoBelow: hertz('Mono below', {
      min: 20,
      max: 1000,
      default: 20,
      tip: 'Makes the sound mono below this frequency; off at the minimum',
    }),
  },
  tail: (v) => (v.monoBelow > 20.01 ? 0.3 : 0),
  presets: [
    { name: 'Wide deck', tip: 'Wider sides', params: { width: 1.5, monoBelow: 150 } },
    { name: 'One mast', tip: 'Mono', params: { width: 0 } },
    { name: 'Feet together', tip: 'Mono below the bass crossover', params: { monoBelow: 220 } },
    { name: 'Other way round', tip: 'Swaps left and right', params: { channels: 1, side: -2 } },
  ],
  create: ({ sampleRate }) => {
    // integrators: two of the middle's all-pass, two and two of the sides' high-pass
    const state = new Float64Array(6)
    const gs = new Float64Array(BLOCK)
    return {
      reset() {
        state.fill(0)
      },
      process({ in: input, out }, p) {
        const way = p.channels.value
        const inL = way === 1 || way === 3 ? input.right : input.left
        const inR = way === 1 || way === 2 ? input.left : input.right
        const signL = p.polarity.value === 1 || p.polarity.value === 3 ? -1 : 1
        const signR = p.polarity.value >= 2 ? -1 : 1
        const pans = p.pan.values(),
          widths = p.width.values(),
          mids = p.mid.values(),
          sides = p.side.values()
        const { left, right } = out
        for (let i = 0; i < BLOCK; i++) {
          const l = inL[i] * signL
          const r = inR[i] * signR
          const w = widths[i]
          // at full width and beyond, the middle gives way instead of the sides growing without end
          const m = 0.5 * (l + r) * mids[i] * Math.min(1, 2 - w)
          const s = 0.5 * (l - r) * sides[i] * Math.min(1, w)
          const at = pans[i]
          left[i] = (m + s) * Math.min(1, 1 - at)
          right[i] = (m - s) * Math.min(1, 1 + at)
        }
        if (p.monoBelow.constant && p.monoBelow.value <= 20.01) return
        if (p.monoBelow.constant) gs.fill(tanPi(p.monoBelow.value / sampleRate))
        else tangents(p.monoBelow.buffer, 1 / sampleRate, gs)
        monoBelow(left, right, gs, state)
      },
    }
  },
})

/** Damping of a Butterworth filter of second order. */
const DAMPING = Math.SQRT2

/**
 * Takes the sides out below a corner, in place. Of a fourth-order Linkwitz–Riley crossover (Linkwitz 1976)
 * whose low part is made mono, the middle passes both parts, which add up to a second-order all-pass, and the
 * sides pass the high part alone: three state-variable filters (Zavalishin) in place of eight. `gs` are the
 * tangents of the corners.
 */
function monoBelow(left: Float32Array, right: Float32Array, gs: Float64Array, state: Float64Array): void {
  let m1 = state[0],
    m2 = state[1],
    a1 = state[2],
    a2 = state[3],
    b1 = state[4],
    b2 = state[5]
  for (let i = 0; i < BLOCK; i++) {
    const g = gs[i]
    const d = 1 / (1 + g * (g + DAMPING))
    const m = 0.5 * (left[i] + right[i])
    const s = 0.5 * (left[i] - right[i])
    const vm = d * (m1 + g * (m - m2))
    m1 = 2 * vm - m1
    m2 += 2 * g * vm
    const middle = m - 2 * DAMPING * vm
    const va = d * (a1 + g * (s - a2))
    const first = s - DAMPING * va - (a2 + g * va)
    a1 = 2 * va - a1
    a2 += 2 * g * va
    const vb = d * (b1 + g * (first - b2))
    const high = first - DAMPING * vb - (b2 + g * vb)
    b1 = 2 * vb - b1
    b2 += 2 * g * vb
    left[i] = middle + high
    right[i] = middle - high
  }
  state[0] = settled(m1)
  state[1] = settled(m2)
  state[2] = settled(a1)
  state[3] = settled(a2)
  state[4] = settled(b1)
  state[5] = settled(b2)
}

/** Denormal numbers would be slow. */
const settled = (x: number): number => (Math.abs(x) < 1e-18 ? 0 : x)
