import { BLOCK } from '../contract/block'
import { defineEffect } from '../contract/effect'
import { LEAST_DELAY, StereoDelayLine } from '../dsp/delay-line'
import { LN2_OVER_1200, TAU, log2 } from '../dsp/math'
import { randomAt } from '../dsp/random'
import { sineOf } from '../dsp/sines'
import { choice, hertz, number, percent, seconds, semitones } from '../units/parameter'

/** How far the time can swing either way, in seconds; the latency follows from it alone. */
const REACHES = [0.01, 0.05, 0.25]
/** Share of the reach that each layer may use: slow wave, flutter, jumps. */
const SHARES = [0.72, 0.08, 0.2]
/** Random points a second for what is irregular, as a factor on the rate of the layer. */
const WANDER = 0.31
/** Seconds in which a jump goes out; it comes back in the time that is set. */
const OUT = 0.07

const latencyOf = (sampleRate: number, reach: number): number =>
  Math.round(REACHES[Math.round(reach)] * sampleRate) + LEAST_DELAY + 1

/** A random line through points from −1 to 1, with soft corners. */
function wander(seed: number, x: number): number {
  const at = Math.floor(x)
  const t = x - at
  const a = randomAt(seed, at),
    b = randomAt(seed, at + 1)
  return 2 * (a + (b - a) * t * t * (3 - 2 * t)) - 1
}

/**
 * Moves the pitch as a worn record or tape does. The parameters are pitch deviations in cents; the time
 * follows from it: for a pitch of a·sin φ the time swings by (a·cos φ + a²/8·sin 2φ)/ω, the integral of
 * exp(a·sin φ) − 1 without its mean, to third order. So the pitch is right and the
 * time never runs away.
 */
export const wow = defineEffect({
  id: 'wow',
  name: 'Wow',
  group: 'time',
  movesByItself: true,
  load: { kB: 100, ns: 180 },
  tip: 'Pitch variation of worn records and tapes: wow, flutter and jumps',
  also: ['flutter', 'worn record', 'tape', 'vibrato', 'warble'],
  params: {
    reach: choice(
      'Reach',
      ['10 ms', '50 ms', '250 ms'],
      1,
      'Largest delay each way; also the latency. Slow, deep wow needs more',
    ),
    depth: semitones('Wow', {
      min: 0,
      max: 1,
      default: 0.2,
      tip: 'Pitch deviation of the wow; 1 st is 100 cents',
    }),
    rate: hertz('Rate', {
      min: 0.1,
      max: 6,
      default: 0.55,
      tip: 'Rate of the wow; 0.55 Hz is a record at 33 rpm',
    }),
    irregular: percent('Irregular', {
      default: 0.4,
      tip: 'Random variation of rate and depth',
    }),
    flutter: semitones('Flutter', {
      min: 0,
      max: 0.5,
      default: 0.04,
      tip: 'Pitch deviation of the flutter',
    }),
    flutterRate: hertz('Flutter rate', { min: 4, max: 40, default: 9, tip: 'Rate of the flutter' }),
    jumps: number('Jumps per minute', {
      min: 0,
      max: 120,
      default: 0,
      tip: 'How often the pitch jumps away and returns',
    }),
    jump: semitones('Jump', { min: -1, max: 1, default: 0.3, tip: 'Size of a jump' }),
    back: seconds('Return', { min: 0.05, max: 2, default: 0.5, tip: 'Time in which a jump returns' }),
    hear: choice('Listen', ['all', 'wow', 'flutter', 'jumps'], 0, 'Plays all layers, or one alone'),
  },
  readouts: ['cents', 'short'],
  latency: (sampleRate, v) => latencyOf(sampleRate, v?.reach ?? 1),
  acts: (_, latency) => latency,
  clockAtEnd: true,
  tail: (v) => 2 * REACHES[Math.round(v.reach)] + 0.01,
  groups: [
    { name: 'Wow', gauges: ['reach', 'depth', 'rate', 'irregular'] },
    { name: 'Flutter', gauges: ['flutter', 'flutterRate'] },
    { name: 'Jumps', gauges: ['jumps', 'jump', 'back'] },
    { name: 'Output', gauges: ['hear'] },
  ],
  presets: [
    {
      name: 'Worn record',
      tip: 'Slow wow at 33 rpm',
      params: { depth: 0.22, rate: 0.55, irregular: 0.45, flutter: 0.03, jumps: 2, jump: 0.25 },
    },
    {
      name: 'Cassette left in the sun',
      tip: 'Wow and flutter',
      params: { depth: 0.35, rate: 0.9, irregular: 0.8, flutter: 0.09, flutterRate: 11 },
    },
    {
      name: 'Only a shimmer',
      tip: 'Fast, shallow flutter',
      params: { depth: 0.05, rate: 1.3, irregular: 0.6, flutter: 0.02 },
    },
    {
      name: 'Deep swell',
      tip: 'Deep, slow wow',
      params: { reach: 2, depth: 0.8, rate: 0.12, irregular: 0.3, flutter: 0 },
    },
  ],
  create: ({ sampleRate, seed, latency = latencyOf(sampleRate, 1) }) => {
    const reach = latency - LEAST_DELAY - 1
    const line = new StereoDelayLine(2 * reach + BLOCK + 64, 5, BLOCK)
    const times = line.block(),
      readL = line.block(),
      readR = line.block()
    const writeL = line.block(),
      writeR = line.block()
    const readouts = new Float64Array(2)
    // phases of wow and flutter; of the jump clock; frames since the jump that is under way; its size in
    // samples; time at the end of the last block; place of what wanders
    const state = new Float64Array(8)
    const slowSeed = seed,
      deepSeed = seed + 101,
      jumpSeed = seed + 202
    return {
      readouts,
      reset() {
        line.reset()
        state.fill(0)
        state[3] = -1
        readouts.fill(0)
      },
      isQuiet: () => line.isQuiet,
      advance(frames, p) {
        state[0] += (frames * p.rate.value) / sampleRate
        state[1] += (frames * p.flutterRate.value) / sampleRate
        state[2] += (frames * p.jumps.value) / (60 * sampleRate)
        state[6] += (frames * WANDER * p.rate.value) / sampleRate
        state[3] = -1
      },
      process({ in: input, out }, p) {
        const depths = p.depth.values(),
          rates = p.rate.values(),
          irregulars = p.irregular.values(),
          flutters = p.flutter.values(),
          flutterRates = p.flutterRate.values()
        const densities = p.jumps.values(),
          sizes = p.jump.values(),
          backs = p.back.values()
        const hear = p.hear.value
        const slowOn = hear < 2 ? 1 : 0,
          flutterOn = hear === 0 || hear === 2 ? 1 : 0,
          jumpsOn = hear === 0 || hear === 3
        // slow enough to go straight over a block
        const wanders = !p.irregular.constant || p.irregular.value > 0
        const toWander = state[6] + (WANDER * p.rate.value * BLOCK) / sampleRate
        const unrest0 = wanders ? wander(slowSeed, state[6]) : 0,
          unrest1 = wanders ? wander(slowSeed, toWander) : 0
        const shallow0 = wanders ? wander(deepSeed, state[6]) : 0,
          shallow1 = wanders ? wander(deepSeed, toWander) : 0
        state[6] = toWander
        let slow = state[0],
          fast = state[1],
          clock = state[2],
          since = state[3],
          size = state[4]
        let most = 0
        for (let i = 0; i < BLOCK; i++) {
          const irregular = irregulars[i]
          const t = i / BLOCK
          const unrest = unrest0 + (unrest1 - unrest0) * t
          const rate = rates[i] * (1 + 0.6 * irregular * unrest)
          const omega = (TAU * rate) / sampleRate
          let a =
            100 *
            depths[i] *
            LN2_OVER_1200 *
            slowOn *
            (1 - 0.45 * irregular * (1 + shallow0 + (shallow1 - shallow0) * t))
          let want = a / omega
          if (want > most) most = want
          if (want > SHARES[0] * reach) {
            a *= (SHARES[0] * reach) / want
            want = SHARES[0] * reach
          }
          let d = want * sineOf(slow + 0.25) + ((a * a) / (8 * omega)) * sineOf(2 * slow)
          const flutterOmega = (TAU * flutterRates[i]) / sampleRate
          let b = 100 * flutters[i] * LN2_OVER_1200 * flutterOn
          if (b > SHARES[1] * reach * flutterOmega) b = SHARES[1] * reach * flutterOmega
          d += (b / flutterOmega) * sineOf(fast + 0.25) + ((b * b) / (8 * flutterOmega)) * sineOf(2 * fast)
          slow += rate / sampleRate
          fast += flutterRates[i] / sampleRate
          if (jumpsOn) {
            const before = Math.floor(clock)
            clock += densities[i] / (60 * sampleRate)
            // somewhere in each turn of the clock, by chance
            const at = randomAt(jumpSeed, before) * 0.8 + 0.1
            if (
              since < 0 &&
              clock - before >= at &&
              clock - before - densities[i] / (60 * sampleRate) < at &&
              densities[i] > 0
            ) {
              since = 0
              // the steepest place of the way out is half as steep again as its mean
              size = ((1 - exp2Of(sizes[i])) * OUT * sampleRate) / 1.5
              if (size > SHARES[2] * reach) size = SHARES[2] * reach
              if (size < -SHARES[2] * reach) size = -SHARES[2] * reach
            }
            if (since >= 0) {
              const out = OUT * sampleRate
              const back = backs[i] * sampleRate
              const u = since < out ? since / out : 1 - (since - out) / back
              since = u <= 0 && since >= out ? -1 : since + 1
              if (u > 0) d += size * u * u * (3 - 2 * u)
            }
          }
          times[i] = latency + d + BLOCK
          writeL[i] = input.left[i]
          writeR[i] = input.right[i]
        }
        line.write(writeL, writeR, 0, BLOCK)
        line.read(times, readL, readR, 0, BLOCK)
        for (let i = 0; i < BLOCK; i++) {
          out.left[i] = readL[i]
          out.right[i] = readR[i]
        }
        readouts[0] = 1200 * log2(1 - (times[BLOCK - 1] - times[0]) / (BLOCK - 1))
        readouts[1] = most > SHARES[0] * reach ? most / SHARES[0] / sampleRate : 0
        state[0] = slow - Math.floor(slow)
        state[1] = fast - Math.floor(fast)
        state[2] = clock
        state[3] = since
        state[4] = size
      },
    }
  },
})

/** Speed for a pitch in semitones, near 0. */
const exp2Of = (st: number): number => {
  const x = 100 * st * LN2_OVER_1200
  return 1 + x * (1 + x * (0.5 + x / 6))
}
