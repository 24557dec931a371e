import { FeedbackNetwork, LINES } from '../dsp/feedback-network'
import { exp2, log2, sinCycles, tanPi } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { BLOCK } from '../contract/block'
import { hertz, percent, ratio, seconds } from '../units/parameter'
import { type ParamValues, defineEffect } from '../contract/effect'

/** Line lengths at full size in seconds: ratios spread evenly on a log scale, then made prime in samples. */
const SHORTEST = 0.0223
const LONGEST = 0.0941
/** How many lines move: enough to break up standing lines, few enough to keep the cost of interpolation low. */
const MOVING = 4
const DIFFUSER_SECONDS = [0.00237, 0.00393, 0.00641, 0.00907]
const LOW_CORNER = 250
const HIGH_CORNER = 4000

const params = {
  decay: seconds('Decay', { min: 0.1, max: 30, default: 2.4, tip: 'RT60: time to fall by 60 dB in the middle of the spectrum' }),
  size: percent('Size', { min: 0.2, default: 0.8, tip: 'Length of the lines: from a box to a hall' }),
  predelay: seconds('Pre-delay', { min: 0, max: 0.25, default: 0.012, tip: 'Time before the reverb starts' }),
  lows: ratio('Lows', { min: 0.25, max: 2, default: 1, tip: 'Decay below 250 Hz, as a multiple of Decay' }),
  highs: ratio('Highs', { min: 0.1, max: 1.5, default: 0.5, tip: 'Decay above 4 kHz, as a multiple of Decay' }),
  diffusion: percent('Diffusion', { default: 0.8, tip: 'How soon single echoes melt together' }),
  motion: percent('Motion', { default: 0.25, tip: 'Slow movement of some lines; avoids ringing tones' }),
  lowCut: hertz('Low cut', { min: 20, max: 1000, default: 80, tip: 'High-pass before the reverb' }),
  width: percent('Width', { max: 1.5, default: 1, tip: 'Width of the reverb: 0 % is mono' }),
}

/** One-sample-memory shelf: y = b0·x + b1·x₁ − a1·y₁. */
interface Shelf { readonly b0: number, readonly b1: number, readonly a1: number }

/** First-order low shelf: `g` at DC, 1 at Nyquist, √g at `f` as a share of the sample rate (bilinear). */
function lowShelf(g: number, f: number): Shelf {
  const t = tanPi(f)
  const r = Math.sqrt(g)
  const n = 1 + t / r
  return { b0: (1 + t * r) / n, b1: (t * r - 1) / n, a1: (t / r - 1) / n }
}

/** First-order high shelf: 1 at DC, `g` at Nyquist. */
function highShelf(g: number, f: number): Shelf {
  const s = lowShelf(1 / g, f)
  return { b0: s.b0 * g, b1: s.b1 * g, a1: s.a1 }
}

/** Level in dB that a line of `length` seconds loses in one pass at the ends and middle of the spectrum. */
const lossDb = (length: number, decay: number): number => -60 * length / decay

/** Squared magnitude of a shelf at `f` as a share of the sample rate. */
function shelfPower(s: Shelf, f: number): number {
  const c = sinCycles(f + 0.25)
  return (s.b0 * s.b0 + s.b1 * s.b1 + 2 * s.b0 * s.b1 * c) / (1 + s.a1 * s.a1 + 2 * s.a1 * c)
}

/** The decay time in seconds at frequency `f` that the settings ask for, as the picture shows it and the test holds it. */
export function reverbDecayAt(v: Pick<ParamValues<typeof params>, 'decay' | 'lows' | 'highs' | 'size'>, f: number, sampleRate: number): number {
  const length = 0.5 * (SHORTEST + LONGEST) * v.size
  const { low, high, gain } = absorption(length, v.decay, v.lows, v.highs, sampleRate)
  const power = gain * gain * shelfPower(low, f / sampleRate) * shelfPower(high, f / sampleRate)
  return -60 * length / (3.010299956639812 * log2(power))
}

function absorption(length: number, decay: number, lows: number, highs: number, sampleRate: number) {
  const mid = lossDb(length, decay)
  const toGain = (db: number) => exp2(db / 6.020599913279624)
  return {
    gain: toGain(mid),
    low: lowShelf(toGain(lossDb(length, decay * lows) - mid), LOW_CORNER / sampleRate),
    high: highShelf(toGain(lossDb(length, decay * highs) - mid), HIGH_CORNER / sampleRate),
  }
}

/**
 * Feedback delay network: 16 lines of prime length through a normalised Hadamard matrix, with first-order absorbent
 * filters per line (Jot & Chaigne, "Digital delay networks for designing artificial reverberators", AES 1991;
 * Schlecht & Habets, "On lossless feedback delay networks", 2017), after four diffusing all-passes a side
 * (Schroeder 1962). Input and output stereo; the level stays the same as the decay changes.
 */
export const reverb = defineEffect({
  id: 'reverb',
  name: 'Reverb',
  group: 'space',
  tip: 'A room from a box to a hall, with its own decay for lows and highs',
  params,
  tail: (v) => v.predelay + 2 * v.decay * Math.max(1, v.lows, v.highs) + 0.2,
  presets: [
    { name: 'Wheelhouse', params: { decay: 0.6, wet: 0.25 } },
    { name: 'Empty hold', params: { decay: 4.5, wet: 0.35 } },
    { name: 'Night harbour', params: { decay: 9, wet: 0.3 } },
    { name: 'Behind it all', params: { decay: 2.2, wet: 0.15 } },
  ],
  create: ({ sampleRate, seed }) => {
    const network = new FeedbackNetwork(LONGEST * sampleRate)
    const { left: inL, right: inR, out: wet } = network
    const preSize = 32768 * Math.ceil(sampleRate / 96000)
    const pre = [new Float32Array(preSize), new Float32Array(preSize)]
    const diffusers = DIFFUSER_SECONDS.map((s) => prime(Math.round(s * sampleRate)))
    const diffuserRings = [0, 1].map((side) => diffusers.map((n) => new Float32Array(n + side * 8)))
    const diffuserHeads = new Int32Array(8)
    const full = new Int32Array(LINES)
    for (let k = 0; k < LINES; k++) full[k] = prime(Math.round(SHORTEST * exp2(k / (LINES - 1) * log2(LONGEST / SHORTEST)) * sampleRate))
    const phases = new Float64Array(MOVING)
    const swing = new Float64Array(MOVING)
    const swingTo = new Float64Array(MOVING)
    // numbers on their way into the kernels below, which would be boxed as arguments
    const span = new Float64Array(2)
    // write place of the pre-delay, size now, input gain, low cut left and right; and what filters are set for
    const state = new Float64Array(5)
    const setFor = new Float64Array(6)

    function setFilters(decay: number, lows: number, highs: number, s: number) {
      setFor[0] = decay
      setFor[1] = lows
      setFor[2] = highs
      setFor[3] = s
      for (let k = 0; k < LINES; k++) {
        const { gain, low, high } = absorption(full[k] * s / sampleRate, decay, lows, highs, sampleRate)
        network.setFilters(k, [low.b0 * gain, low.b1 * gain, low.a1, high.b0, high.b1, high.a1])
      }
      const mean = exp2(lossDb(0.5 * (SHORTEST + LONGEST) * s, decay) / 6.020599913279624)
      state[2] = Math.sqrt(1 - mean * mean) * 0.5
    }

    return {
      reset() {
        network.reset()
        for (const p of pre) p.fill(0)
        for (const side of diffuserRings) for (const ring of side) ring.fill(0)
        for (const a of [diffuserHeads, swing, swingTo]) a.fill(0)
        for (let k = 0; k < MOVING; k++) phases[k] = ((seed >>> (k * 5)) & 31) / 32
        state.fill(0)
        setFor.fill(0)
      },
      advance(frames) {
        for (let k = 0; k < MOVING; k++) phases[k] += (0.31 + 0.17 * k) * frames / sampleRate
      },
      process({ in: input, out }, p) {
        let preHead = state[0] | 0, scale = state[1], cutL = state[3], cutR = state[4]
        const xL = input.left, xR = input.right, yL = out.left, yR = out.right
        const wanted = p.size.value
        if (scale === 0) scale = wanted
        const gliding = Math.abs(wanted - scale) > 1e-7
        if (!gliding) scale = wanted
        const from = scale
        if (gliding) scale += (wanted - scale) * 0.06
        if (setFor[0] !== p.decay.value || setFor[1] !== p.lows.value || setFor[2] !== p.highs.value || setFor[3] !== scale) setFilters(p.decay.value, p.lows.value, p.highs.value, scale)
        const inputGain = state[2]
        const depth = p.motion.value * 0.0006 * sampleRate
        for (let k = 0; k < MOVING; k++) {
          phases[k] += (0.31 + 0.17 * k) * BLOCK / sampleRate
          phases[k] -= Math.floor(phases[k])
          swing[k] = swingTo[k]
          // a triangle rounded by a cubic: near enough to a sine for a slow drift
          const t = phases[k] < 0.5 ? 4 * phases[k] - 1 : 3 - 4 * phases[k]
          swingTo[k] = depth * (1 + t * (1.5 - 0.5 * t * t))
        }
        const preFrames = p.predelay.values()
        const stillPre = p.predelay.constant ? Math.round(p.predelay.value * sampleRate) : -1
        if (setFor[4] !== p.lowCut.value) setFor[5] = onePoleWeight(setFor[4] = p.lowCut.value, sampleRate)
        const w = setFor[5]
        const widths = p.width.values()
        const [preL, preR] = pre
        const preMask = preSize - 1
        for (let i = 0; i < BLOCK; i++) {
          preL[preHead] = xL[i]
          preR[preHead] = xR[i]
          const back = (preHead - (stillPre >= 0 ? stillPre : Math.round(preFrames[i] * sampleRate))) & preMask
          const l = preL[back]
          const r = preR[back]
          preHead = (preHead + 1) & preMask
          cutL += w * (l - cutL)
          cutR += w * (r - cutR)
          inL[i] = (l - cutL) * inputGain
          inR[i] = (r - cutR) * inputGain
        }
        span[0] = 0.78 * p.diffusion.value
        diffuse(diffuserRings[0], diffuserHeads, 0, inL, span)
        diffuse(diffuserRings[1], diffuserHeads, 4, inR, span)
        for (let k = 0; k < LINES; k += 2) {
          if (k < MOVING) for (let m = k; m < k + 2; m++) {
            span[0] = full[m] * from - 1 - swing[m]
            span[1] = full[m] * scale - 1 - swingTo[m]
            network.readMoving(m, span)
          }
          else if (gliding) for (let m = k; m < k + 2; m++) {
            span[0] = full[m] * from
            span[1] = full[m] * scale
            network.readMoving(m, span)
          }
          else network.readStill(k >> 1, Math.round(full[k] * scale), Math.round(full[k + 1] * scale))
        }
        network.run()
        for (let i = 0; i < BLOCK; i++) {
          const m = 0.5 * (wet[2 * i] + wet[2 * i + 1])
          const d = 0.5 * (wet[2 * i] - wet[2 * i + 1]) * widths[i]
          yL[i] = m + d
          yR[i] = m - d
        }
        state[0] = preHead
        state[1] = scale
        state[3] = cutL
        state[4] = cutR
      },
    }
  },
})

/** Four all-passes in series over a block, in place. */
function diffuse(rings: readonly Float32Array[], heads: Int32Array, at: number, x: Float64Array, amount: Float64Array): void {
  const g = amount[0]
  for (let d = 0; d < 4; d++) {
    const ring = rings[d]
    const length = ring.length
    let h = heads[at + d]
    for (let i = 0; i < BLOCK; i++) {
      const past = ring[h]
      const v = x[i] - g * past
      ring[h] = v
      x[i] = past + g * v
      if (++h === length) h = 0
    }
    heads[at + d] = h
  }
}

function prime(n: number): number {
  for (let p = n | 1; ; p += 2) {
    let d = 3
    while (d * d <= p && p % d) d += 2
    if (d * d > p) return p
  }
}
