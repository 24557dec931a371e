import { type Shaper, curveFirm, curveHard, curveRound, shapeFirm, shapeHard, shapeRound } from '../dsp/antiderivative'
import { DcBlocker, onePoleWeight } from '../dsp/one-pole'
import { OVERSAMPLER_LATENCY, Oversampler, type ShaperRate } from '../dsp/oversampler'
import { BLOCK, type ParamBlock } from '../engine/block'
import { boost, choice, factor, hertz } from '../units/parameter'
import { defineEffect } from './definition'

/** The curves a Drive can bend by, in the order of its `curve` parameter: the anti-aliased shaper and the curve as such. */
export const driveCurves: readonly { readonly name: string, readonly shape: Shaper, readonly curve: (x: number) => number }[] = [
  { name: 'round', shape: shapeRound, curve: curveRound },
  { name: 'firm', shape: shapeFirm, curve: curveFirm },
  { name: 'hard', shape: shapeHard, curve: curveHard },
]

const rates: readonly ShaperRate[] = [1, 2, 4, 8]

/**
 * Saturation. The curve is anti-aliased by its antiderivative (see dsp/antiderivative) at up to 8 times the rate;
 * what the bias adds at rest is taken out again and the mean is blocked. Output peaks stay near 0 dBFS before Output.
 */
export const drive = defineEffect({
  id: 'drive',
  name: 'Drive',
  group: 'dirt',
  tip: 'Saturation from warm to hard, without aliases',
  params: {
    drive: boost('Drive', { min: 0, max: 48, default: 12, tip: 'Gain into the curve' }),
    curve: choice('Curve', driveCurves.map((c) => c.name), 0, 'How the signal bends: round, with a firm knee, or hard'),
    bias: factor('Bias', { min: -1, max: 1, default: 0, tip: 'Moves the signal along the curve; adds even harmonics' }),
    tone: hertz('Tone', { min: 500, max: 20_000, default: 20_000, tip: 'Low-pass after the curve; fully open at its end' }),
    output: boost('Output', { min: -36, max: 12, default: -6, tip: 'Level after the curve' }),
    quality: choice('Quality', ['naive', '2 ×', '4 ×', '8 ×'], 3, 'Oversampling around the curve; naive lets aliases through'),
  },
  latency: () => OVERSAMPLER_LATENCY,
  tail: () => 0.1,
  create: ({ sampleRate }) => {
    const channels = [0, 1].map(() => ({ over: new Oversampler(BLOCK), dc: new DcBlocker(sampleRate), last: 0, low: 0 }))

    function run(c: (typeof channels)[number], input: Float32Array, out: Float32Array, drive: ParamBlock, bias: ParamBlock, output: ParamBlock, tone: ParamBlock, curve: number, rate: ShaperRate) {
      const base = c.over.base
      if (drive.constant && bias.constant) into(input, base, drive, bias)
      else {
        const d = drive.values()
        const b = bias.values()
        for (let i = 0; i < BLOCK; i++) base[i] = input[i] * d[i] + b[i]
      }
      const fast = c.over.raise(rate)
      if (rate === 1) {
        const f = driveCurves[curve].curve
        for (let i = 0; i < BLOCK; i++) fast[i] = f(fast[i])
      } else if (curve === 0) c.over.shapeRound(fast)
      else if (curve === 1) c.last = shapeFirm(fast, c.last)
      else c.last = shapeHard(fast, c.last)
      c.over.lower(rate)
      c.dc.process(base)
      if (!tone.constant || tone.value < 19_990) {
        const w = tone.constant ? onePoleWeight(tone.value, sampleRate) : 0
        let low = c.low
        for (let i = 0; i < BLOCK; i++) {
          low += (tone.constant ? w : onePoleWeight(tone.buffer[i], sampleRate)) * (base[i] - low)
          base[i] = low
        }
        c.low = low > 1e-20 || low < -1e-20 ? low : 0
      }
      if (output.constant) outOf(base, out, output)
      else {
        const g = output.buffer
        for (let i = 0; i < BLOCK; i++) out[i] = base[i] * g[i]
      }
    }

    return {
      reset() {
        for (const c of channels) {
          c.over.reset()
          c.dc.reset()
          c.last = c.low = 0
        }
      },
      process({ in: input, out }, p) {
        const rate = rates[p.quality.value]
        run(channels[0], input.left, out.left, p.drive, p.bias, p.output, p.tone, p.curve.value, rate)
        run(channels[1], input.right, out.right, p.drive, p.bias, p.output, p.tone, p.curve.value, rate)
      },
    }
  },
})

function into(input: Float32Array, base: Float64Array, drive: ParamBlock, bias: ParamBlock): void {
  const d = drive.value
  const b = bias.value
  for (let i = 0; i < BLOCK; i++) base[i] = input[i] * d + b
}

function outOf(base: Float64Array, out: Float32Array, output: ParamBlock): void {
  const g = output.value
  for (let i = 0; i < BLOCK; i++) out[i] = base[i] * g
}
