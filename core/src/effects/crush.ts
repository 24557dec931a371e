import { STEP_HALF, STEP_PHASES, STEP_TAPS, stepTables } from '../dsp/band-limited-step'
import { exp2, exp2Block } from '../dsp/math'
import { onePoleWeight, onePoleWeights } from '../dsp/one-pole'
import { Random } from '../dsp/random'
import { bounded } from '../dsp/soft-ceiling'
import { ValueDelay } from '../dsp/value-delay'
import { BLOCK, peakOf } from '../contract/block'
import { choice, hertz, number, percent, toggle } from '../units/parameter'
import { defineEffect } from '../contract/effect'

const LATENCY = STEP_TAPS - 1
/** Length of the rings of input and output, a power of two above the taps. */
const RING = 64

/**
 * Reduces bit depth and sample rate, with an uneven clock. The clock's ticks fall between samples: there the
 * signal is read by a windowed sinc, and the step it then makes is band-limited. So nothing sounds but what
 * the lower rate itself folds and repeats. `smooth` filters that too: before the clock what would fold, after
 * it the steps.
 */
export const crush = defineEffect({
  id: 'crush',
  name: 'Crush',
  group: 'dirt',
  movesByItself: true,
  load: { kB: 175, ns: 580 },
  tip: 'Reduces bit depth and sample rate',
  also: ['bitcrush', 'bit crusher', 'decimate', 'sample rate reduction', 'lofi', 'lo-fi'],
  params: {
    bits: number('Bits', {
      min: 1,
      max: 16,
      default: 8,
      tip: 'Bit depth; fractions are possible',
    }),
    rate: hertz('Rate', {
      min: 100,
      max: 48_000,
      default: 12_000,
      tip: 'Sample rate after reduction; off at the maximum',
    }),
    jitter: percent('Jitter', { default: 0, tip: 'Random variation of the sample clock' }),
    smooth: toggle('Smooth', false, 'Filters before and after, which reduces aliasing'),
    quality: choice(
      'Quality',
      ['naive', 'clean'],
      1,
      'Clean places the steps between samples; naive rounds them to the next one and adds aliases',
    ),
  },
  readouts: ['input'],
  latency: () => LATENCY,
  // in the middle of the kernels before and after the clock
  acts: () => STEP_HALF,
  prepare: stepTables,
  tail: (v) => 0.02 + 12 / v.rate,
  presets: [
    { name: 'Ship’s radio', tip: 'Narrow and gritty', params: { bits: 7, rate: 8000, smooth: 1 } },
    { name: 'Twelve steps', tip: 'Coarse quantisation', params: { bits: 3.6, rate: 48_000 } },
    { name: 'Rusty clock', tip: 'Unsteady sample rate', params: { bits: 10, rate: 5200, jitter: 0.6 } },
    { name: 'Almost clean', tip: 'A little grain', params: { bits: 12, rate: 26_000 } },
  ],
  create: ({ sampleRate, seed }) => {
    const random = new Random(seed)
    const { impulseRows, stepRows } = stepTables()
    const sides = [0, 1].map(() => ({
      past: new Float64Array(RING),
      ahead: new Float64Array(RING),
      held: new Float64Array(1),
    }))
    // filters before and after, two poles a side
    const poles = new Float64Array(8)
    // of each frame: how long ago the clock ticked in samples, or −1; steps of level; weight of the filters;
    // how much passes unheld
    const ticks = new Float64Array(BLOCK)
    const levels = new Float64Array(BLOCK)
    const weights = new Float64Array(BLOCK)
    const open = new Float64Array(BLOCK)
    // steps of level, and how much passes, when what the clock sees now comes out
    const lateLevels = new Float64Array(BLOCK)
    const lateOpen = new Float64Array(BLOCK)
    const lateness = [new ValueDelay(LATENCY - STEP_HALF), new ValueDelay(LATENCY - STEP_HALF)]
    const readouts = new Float64Array(1)
    // in an array, since a number in a closure is boxed again at each change
    const clocks = new Float64Array(1)
    let head = 0

    function side(c: number, input: Float32Array, out: Float32Array, smooth: boolean, clean: boolean): void {
      const { past, ahead, held } = sides[c]
      let p0 = poles[4 * c],
        p1 = poles[4 * c + 1],
        p2 = poles[4 * c + 2],
        p3 = poles[4 * c + 3]
      let hold = held[0]
      for (let i = 0; i < BLOCK; i++) {
        const at = head + i
        const w = weights[i]
        let x = input[i]
        if (smooth) x = p1 += w * ((p0 += w * (x - p0)) - p1)
        past[at & (RING - 1)] = x
        const tick = ticks[i]
        if (tick >= 0) {
          const place = clean ? tick * STEP_PHASES : 0
          const row = (place | 0) * STEP_TAPS
          const t = place - (place | 0)
          let v = 0
          // oldest first: that reads `tick` and 23 samples ago
          for (let k = 0; k < STEP_TAPS; k++) {
            const a = impulseRows[row + k]
            v += past[(at - LATENCY + k) & (RING - 1)] * (a + t * (impulseRows[row + STEP_TAPS + k] - a))
          }
          v = Math.round(v * levels[i]) / levels[i]
          const step = v - hold
          hold = v
          if (clean && step !== 0) {
            for (let k = 0; k < STEP_TAPS; k++) {
              const a = stepRows[row + k]
              ahead[(at + k) & (RING - 1)] += step * (a + t * (stepRows[row + STEP_TAPS + k] - a))
            }
          }
        }
        ahead[(at + STEP_HALF) & (RING - 1)] += hold
        let y = ahead[at & (RING - 1)]
        ahead[at & (RING - 1)] = 0
        if (lateOpen[i] > 0) {
          const whole = Math.round(past[(at - LATENCY) & (RING - 1)] * lateLevels[i]) / lateLevels[i]
          y += lateOpen[i] * (whole - y)
        }
        if (smooth) y = p3 += w * ((p2 += w * (y - p2)) - p3)
        // band-limited steps of a hot input overshoot
        out[i] = bounded(y)
      }
      held[0] = hold
      poles[4 * c] = p0
      poles[4 * c + 1] = p1
      poles[4 * c + 2] = p2
      poles[4 * c + 3] = p3
    }

    return {
      readouts,
      reset() {
        random.reset()
        for (const { past, ahead, held } of sides) {
          past.fill(0)
          ahead.fill(0)
          held.fill(0)
        }
        for (const late of lateness) late.reset()
        poles.fill(0)
        clocks[0] = 0
        head = 0
      },
      process({ in: input, out }, p) {
        const bits = p.bits.values(),
          rates = p.rate.values(),
          jitters = p.jitter.values()
        readouts[0] = peakOf(input)
        const smooth = p.smooth.value === 1
        if (p.bits.constant) levels.fill(exp2(bits[0] - 1))
        else {
          for (let i = 0; i < BLOCK; i++) levels[i] = bits[i] - 1
          exp2Block(levels)
        }
        if (p.rate.constant) weights.fill(onePoleWeight(0.4 * Math.min(rates[0], sampleRate), sampleRate))
        else if (smooth) {
          for (let i = 0; i < BLOCK; i++) weights[i] = 0.4 * Math.min(rates[i], sampleRate)
          onePoleWeights(weights, sampleRate, weights)
        }
        let clock = clocks[0]
        for (let i = 0; i < BLOCK; i++) {
          const pace = Math.min(1, rates[i] / sampleRate)
          // over the last twentieth of the way up, holding gives way to every sample as it is
          open[i] = pace > 0.95 ? Math.min(1, 20 * (pace - 0.95)) : 0
          clock += pace
          ticks[i] = -1
          if (clock >= 1) {
            clock -= 1
            ticks[i] = Math.min(clock / pace, 0.999999)
            if (jitters[i] > 0) clock -= 0.9 * jitters[i] * random.next()
          }
        }
        clocks[0] = clock
        lateness[0].process(levels, lateLevels)
        lateness[1].process(open, lateOpen)
        side(0, input.left, out.left, smooth, p.quality.value === 1)
        side(1, input.right, out.right, smooth, p.quality.value === 1)
        head = (head + BLOCK) & (RING - 1)
        for (let k = 0; k < 8; k++) if (poles[k] < 1e-18 && poles[k] > -1e-18) poles[k] = 0
      },
    }
  },
})
