import { sinCycles } from '../dsp/math'
import { BLOCK } from '../contract/block'
import { lfoWave } from '../dsp/lfo-wave'
import { choice, hertz, percent } from '../units/parameter'
import { defineEffect } from '../contract/effect'

/**
 * Multiplies the sound by an oscillator of its own, or by another track: sums and differences of their
 * frequencies.
 */
export const ring = defineEffect({
  id: 'ring',
  name: 'Ring',
  group: 'dirt',
  spreads: true,
  movesByItself: true,
  load: { kB: 28, ns: 35 },
  tip: 'Multiplies the sound by a sine or another track',
  also: ['ring modulator', 'amplitude modulation'],
  sidechain: true,
  params: {
    by: choice('By', ['sine', 'triangle', 'square', 'sidechain'], 0, 'Signal that it is multiplied by'),
    frequency: hertz('Frequency', { min: 0.1, max: 12_000, default: 220, tip: 'Frequency of the sine' }),
    depth: percent('Depth', { default: 1, tip: 'From the unchanged sound to full ring modulation' }),
  },
  presets: [
    { name: 'Bell buoy', tip: 'Inharmonic bell', params: { frequency: 413, depth: 1 } },
    { name: 'Quick shiver', tip: 'Fast tremolo', params: { frequency: 27, depth: 0.7 } },
    { name: 'Tin', tip: 'Thin and metallic', params: { frequency: 1733, by: 1, depth: 0.6 } },
    { name: 'By another track', tip: 'Multiplies by the sidechain', params: { by: 3, depth: 1 } },
  ],
  create: ({ sampleRate }) => {
    const state = new Float64Array(1)
    return {
      reset() {
        state[0] = 0
      },
      advance(frames, p) {
        state[0] +=
          (frames * p.frequency.value) / sampleRate -
          Math.floor(state[0] + (frames * p.frequency.value) / sampleRate)
      },
      process({ in: input, out, side }, p) {
        const by = p.by.value
        const f = p.frequency.values(),
          depths = p.depth.values()
        let phase = state[0]
        for (let i = 0; i < BLOCK; i++) {
          let l: number
          let r: number
          if (by === 3) {
            l = side.left[i]
            r = side.right[i]
          } else
            l = r =
              by === 0
                ? sinCycles(phase)
                : by === 1
                  ? 2 * lfoWave(1, phase, 0.5, 0) - 1
                  : phase - Math.floor(phase) < 0.5
                    ? 1
                    : -1
          phase += f[i] / sampleRate
          const d = depths[i]
          out.left[i] = input.left[i] * (1 - d + d * l)
          out.right[i] = input.right[i] * (1 - d + d * r)
        }
        state[0] = phase - Math.floor(phase)
      },
    }
  },
})
