import { AllPassChain } from '../dsp/all-pass-chain'
import { sineOf } from '../dsp/sines'
import { exp2Block } from '../dsp/math'
import { tangents } from '../dsp/tangents'
import { BLOCK, type ParamBlock } from '../contract/block'
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
    const chain = new AllPassChain(MOST, BLOCK)
    const { left, right, tangentsL, tangentsR } = chain
    const phases = new Float64Array(1)
    const corners = new Float64Array(BLOCK)

    /** Corners of one side, `turn` of the stereo angle behind the other, as tangents. */
    function sweep(p: PhaserBlocks, phase: number, turn: number, out: Float64Array): void {
      const depths = p.depth.values(),
        rates = p.rate.values(),
        apart = p.stereo.values(),
        hz = p.frequency.values()
      let at = phase
      for (let i = 0; i < BLOCK; i++) {
        at += rates[i] / sampleRate
        corners[i] = 2 * depths[i] * sineOf(at - turn * apart[i])
      }
      exp2Block(corners)
      for (let i = 0; i < BLOCK; i++) {
        const f = hz[i] * corners[i]
        corners[i] = f > 0.45 * sampleRate ? 0.45 * sampleRate : f
      }
      tangents(corners, 1 / sampleRate, out)
    }

    return {
      reset() {
        chain.reset()
        phases.fill(0)
      },
      advance(frames, p) {
        phases[0] +=
          (frames * p.rate.value) / sampleRate - Math.floor(phases[0] + (frames * p.rate.value) / sampleRate)
      },
      process({ in: input, out }, p) {
        sweep(p, phases[0], 0, tangentsL)
        sweep(p, phases[0], 1, tangentsR)
        left.set(input.left)
        right.set(input.right)
        chain.feedback.set(p.feedback.values())
        chain.mix.set(p.mix.values())
        chain.process(2 * Math.round(p.stages.value / 2))
        out.left.set(left)
        out.right.set(right)
        const rates = p.rate.values()
        let phase = phases[0]
        for (let i = 0; i < BLOCK; i++) phase += rates[i] / sampleRate
        phases[0] = phase - Math.floor(phase)
      },
    }
  },
})

type PhaserBlocks = Readonly<Record<'depth' | 'rate' | 'stereo' | 'frequency', ParamBlock>>
