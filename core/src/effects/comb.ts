import { log2 } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { BLOCK } from '../contract/block'
import { hertz, percent } from '../units/parameter'
import { LoopStrings } from '../dsp/loop-string'
import { defineEffect } from '../contract/effect'

/** Lowest frequency a comb can be tuned to. */
const LOWEST = 20

/**
 * A tuned delay with feedback of either sign: a row of peaks at all multiples of its frequency, or at the odd
 * multiples of half of it. At full feedback it holds itself within a soft limit, so a pulse plucks it like a
 * string (Karplus & Strong 1983; tuned by the phase delay of what is in the loop, Jaffe & Smith 1983).
 */
export const comb = defineEffect({
  id: 'comb',
  name: 'Comb',
  group: 'filter',
  load: { kB: 158, ns: 175 },
  tip: 'A tuned delay that rings like a plucked string',
  also: ['tuned', 'resonator', 'karplus'],
  params: {
    frequency: hertz('Frequency', {
      min: LOWEST,
      max: 8000,
      default: 220,
      tip: 'Note it is tuned to. Type D3, or link a pitch to it',
    }),
    feedback: percent('Feedback', {
      min: -1,
      max: 1,
      default: 0.85,
      tip: 'How long it rings; below 0 it rings in odd harmonics only',
    }),
    damping: hertz('Damping', {
      min: 200,
      max: 20_000,
      default: 9000,
      tip: 'Treble lost with each pass: lower is duller',
    }),
  },
  tail: (v) =>
    Math.abs(v.feedback) > 0.9999
      ? Infinity
      : 0.04 - 20 / Math.min(-1e-4, log2(Math.abs(v.feedback) + 1e-9)) / v.frequency,
  presets: [
    {
      name: 'Pipe in D',
      tip: 'Rings on D',
      params: { frequency: 146.83, feedback: 0.9, damping: 7000, wet: 0.5 },
    },
    {
      name: 'Hollow reed',
      tip: 'Odd harmonics only',
      params: { frequency: 220, feedback: -0.88, damping: 5000, wet: 0.5 },
    },
    { name: 'Thin wall', tip: 'Short metallic colour', params: { frequency: 900, feedback: 0.6, wet: 0.6 } },
    {
      name: 'Almost singing',
      tip: 'Rings long, near self-oscillation',
      params: { frequency: 110, feedback: 0.985, damping: 12_000, wet: 0.35 },
    },
  ],
  create: ({ sampleRate }) => {
    const strings = new LoopStrings(LOWEST, sampleRate, BLOCK)
    const { x, y, weights } = strings
    return {
      reset() {
        strings.reset()
      },
      process({ in: input, out }, p) {
        if (p.damping.constant) weights.fill(onePoleWeight(p.damping.value, sampleRate))
        else for (let i = 0; i < BLOCK; i++) weights[i] = onePoleWeight(p.damping.buffer[i], sampleRate)
        strings.hz.set(p.frequency.values())
        strings.feedback.set(p.feedback.values())
        for (let i = 0; i < BLOCK; i++) {
          x[2 * i] = input.left[i]
          x[2 * i + 1] = input.right[i]
        }
        strings.process()
        for (let i = 0; i < BLOCK; i++) {
          out.left[i] = y[2 * i]
          out.right[i] = y[2 * i + 1]
        }
      },
    }
  },
})
