import { FeedbackNetwork, LINES } from '../dsp/feedback-network'
import { Ducker } from '../dsp/ducker'
import { exp2, log2, sinCycles, tanPi } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { BLOCK } from '../contract/block'
import { beats, choice, decibel, hertz, percent, ratio, seconds, toggle } from '../units/parameter'
import { type ParamValues, defineEffect } from '../contract/effect'

/** Line lengths at full size in seconds: ratios spread evenly on a log scale, then made prime in samples. */
const SHORTEST = 0.0223
const LONGEST = 0.0941
/**
 * How many lines move: enough to break up standing lines, few enough to keep the cost of interpolation low.
 */
const MOVING = 4
const DIFFUSER_SECONDS = [0.00237, 0.00393, 0.00641, 0.00907]

/** Blocks in which the network goes over into a freeze and back. */
const FREEZE_BLOCKS = 12
/** Longest pre-delay, and the last early reflection after it, in seconds. */
const LONGEST_PREDELAY = 0.5

/**
 * What sets one character apart from the others: the size of its lines, its early reflections (seconds, and
 * how fast they fall), and its colour.
 */
interface Character {
  readonly name: string
  readonly lines: number
  readonly first: number
  readonly last: number
  readonly early: number
  readonly fall: number
  readonly bright: number
  readonly body: number
  readonly spread: number
}

const characters: readonly Character[] = [
  { name: 'hall', lines: 1, first: 0.017, last: 0.087, early: 10, fall: 0.5, bright: 1, body: 0, spread: 1 },
  {
    name: 'room',
    lines: 0.65,
    first: 0.004,
    last: 0.032,
    early: 12,
    fall: 0.8,
    bright: 0.75,
    body: 0.15,
    spread: 1.15,
  },
  {
    name: 'plate',
    lines: 0.7,
    first: 0.001,
    last: 0.011,
    early: 12,
    fall: 0.2,
    bright: 1,
    body: -0.35,
    spread: 1.25,
  },
  {
    name: 'hold of a ship',
    lines: 0.92,
    first: 0.021,
    last: 0.084,
    early: 4,
    fall: 0.25,
    bright: 0.4,
    body: 0.9,
    spread: 0.45,
  },
]

const params = {
  decay: seconds('Decay', {
    min: 0.1,
    max: 30,
    default: 2.4,
    tip: 'RT60: time to fall by 60 dB in the middle of the spectrum',
  }),
  character: choice(
    'Character',
    characters.map((c) => c.name),
    0,
    'What kind of place: its early reflections, density and colour',
  ),
  size: percent('Size', { min: 0.2, default: 0.8, tip: 'Length of the lines: from a box to a hall' }),
  predelay: seconds('Pre-delay', {
    min: 0,
    max: LONGEST_PREDELAY,
    default: 0.012,
    tip: 'Time before the reverb starts',
  }),
  sync: toggle('Sync', false, 'Take the pre-delay from a note length; half a second at most'),
  length: beats('Pre-delay length', {
    min: 1 / 32,
    max: 1,
    default: 1 / 8,
    tip: 'Pre-delay as a note length',
  }),
  feed: percent('Feed', { default: 1, tip: 'How much of the input enters: at 0 % what is there rings out' }),
  early: percent('Early', {
    default: 0,
    tip: 'From the late field alone (0 %) to the early reflections alone (100 %)',
  }),
  lows: ratio('Lows', {
    min: 0.25,
    max: 2,
    default: 1,
    tip: 'Decay below the lower crossover, as a multiple of Decay',
  }),
  highs: ratio('Highs', {
    min: 0.1,
    max: 1.5,
    default: 0.5,
    tip: 'Decay above the upper crossover, as a multiple of Decay',
  }),
  lowCorner: hertz('Lower crossover', {
    min: 60,
    max: 1000,
    default: 250,
    tip: 'Below it, Lows says how long it rings',
  }),
  highCorner: hertz('Upper crossover', {
    min: 1200,
    max: 12_000,
    default: 4000,
    tip: 'Above it, Highs says how long it rings',
  }),
  diffusion: percent('Diffusion', { default: 0.8, tip: 'How soon single echoes melt together' }),
  density: percent('Density', { default: 1, tip: 'How thick the first tenth of a second is' }),
  motion: percent('Motion', { default: 0.25, tip: 'Slow movement of some lines; avoids ringing tones' }),
  motionRate: ratio('Motion rate', { min: 0.1, max: 10, default: 1, tip: 'How fast they move' }),
  lowCut: hertz('Low cut', { min: 20, max: 1000, default: 80, tip: 'High-pass before the reverb' }),
  highCut: hertz('High cut', {
    min: 1000,
    max: 20_000,
    default: 20_000,
    tip: 'Low-pass before the reverb; at 20 kHz it is off',
  }),
  width: percent('Width', { max: 1.5, default: 1, tip: 'Width of the reverb: 0 % is mono' }),
  freeze: toggle('Freeze', false, 'What rings goes on for ever; nothing enters, nothing moves'),
  duck: decibel('Duck', {
    min: 0,
    max: 40,
    default: 0,
    tip: 'How far the reverb steps back while the input, or the sidechain, sounds',
  }),
  release: seconds('Duck release', {
    min: 0.02,
    max: 2,
    default: 0.3,
    tip: 'How long it takes to come forward again',
  }),
  trails: toggle('Trails', false, 'Switched off, it rings out instead of falling silent'),
}

/** One-sample-memory shelf: y = b0·x + b1·x₁ − a1·y₁. */
interface Shelf {
  readonly b0: number
  readonly b1: number
  readonly a1: number
}

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
const lossDb = (length: number, decay: number): number => (-60 * length) / decay

/** Squared magnitude of a shelf at `f` as a share of the sample rate. */
function shelfPower(s: Shelf, f: number): number {
  const c = sinCycles(f + 0.25)
  return (s.b0 * s.b0 + s.b1 * s.b1 + 2 * s.b0 * s.b1 * c) / (1 + s.a1 * s.a1 + 2 * s.a1 * c)
}

/**
 * The decay time in seconds at frequency `f` that the settings ask for, as the picture shows it and the test
 * holds it.
 */
export function reverbDecayAt(
  v: Pick<ParamValues<typeof params>, 'decay' | 'lows' | 'highs' | 'size'> & {
    readonly lowCorner?: number
    readonly highCorner?: number
    readonly character?: number
  },
  f: number,
  sampleRate: number,
): number {
  const length = 0.5 * (SHORTEST + LONGEST) * v.size * characters[v.character ?? 0].lines
  const { low, high, gain } = absorption(
    length,
    v.decay,
    v.lows,
    v.highs,
    v.lowCorner ?? params.lowCorner.default,
    v.highCorner ?? params.highCorner.default,
    1,
    sampleRate,
  )
  const power = gain * gain * shelfPower(low, f / sampleRate) * shelfPower(high, f / sampleRate)
  return (-60 * length) / (3.010299956639812 * log2(power))
}

/** Times and levels of the early reflections of a character, the right side a little later than the left. */
export function earlyReflections(
  character: number,
): readonly { readonly time: number; readonly level: number; readonly isLeft: boolean }[] {
  const c = characters[character]
  return Array.from({ length: c.early }, (_, k) => {
    const u = c.early > 1 ? k / (c.early - 1) : 0
    // closer and closer, as the images of a sound in the walls of a room are
    const time = c.first + (c.last - c.first) * exp2(0.6 * log2(u + 1e-9)) * (1 + 0.04 * (((k * 7) % 5) - 2))
    return {
      time,
      level: (k % 3 === 1 ? -1 : 1) * exp2((-u / Math.max(0.1, c.fall)) * 1.2),
      isLeft: k % 2 === 0,
    }
  })
}

/** @param lossless 1 for losses as set, 0 for none at all */
function absorption(
  length: number,
  decay: number,
  lows: number,
  highs: number,
  lowCorner: number,
  highCorner: number,
  lossless: number,
  sampleRate: number,
) {
  const mid = lossDb(length, decay) * lossless
  const toGain = (db: number) => exp2(db / 6.020599913279624)
  return {
    gain: toGain(mid),
    low: lowShelf(toGain(lossDb(length, decay * lows) * lossless - mid), lowCorner / sampleRate),
    high: highShelf(toGain(lossDb(length, decay * highs) * lossless - mid), highCorner / sampleRate),
  }
}

/**
 * Feedback delay network: 16 lines of prime length through a normalised Hadamard matrix, with first-order
 * absorbent filters per line (Jot & Chaigne, "Digital delay networks for designing artificial reverberators",
 * AES 1991; Schlecht & Habets, "On lossless feedback delay networks", 2017), after four diffusing all-passes
 * a side (Schroeder 1962). Input and output stereo; the level stays the same as the decay changes.
 */
export const reverb = defineEffect({
  id: 'reverb',
  name: 'Reverb',
  group: 'space',
  spreads: true,
  movesByItself: true,
  load: { kB: 1500, ns: 400 },
  tip: 'A room from a box to a hall, with its own decay for lows and highs',
  also: ['room', 'hall', 'space', 'plate', 'ambience'],
  params,
  sidechain: true,
  trails: true,
  readouts: ['duck'],
  tail: (v, beatsPerSecond) =>
    v.freeze >= 0.5
      ? Infinity
      : (v.sync >= 0.5 ? Math.min(LONGEST_PREDELAY, v.length / beatsPerSecond) : v.predelay) +
        2 * v.decay * Math.max(1, v.lows, v.highs) +
        0.3,
  presets: [
    { name: 'Wheelhouse', params: { decay: 0.6, wet: 0.25 } },
    { name: 'Empty hold', params: { decay: 4.5, wet: 0.35 } },
    { name: 'Night harbour', params: { decay: 9, wet: 0.3 } },
    { name: 'Behind it all', params: { decay: 2.2, wet: 0.15 } },
    { name: 'Tiled galley', params: { character: 1, decay: 0.8, early: 0.35, wet: 0.35 } },
    { name: 'Steel plate', params: { character: 2, decay: 1.9, early: 0.1, lowCut: 220, wet: 0.3 } },
    {
      name: 'Cargo hold',
      params: { character: 3, decay: 3.6, early: 0.3, lows: 1.4, highs: 0.35, wet: 0.4 },
    },
    { name: 'Steps back for the drums', params: { decay: 5, duck: 16, release: 0.4, wet: 0.45 } },
  ],
  create: ({ sampleRate, seed }) => {
    const network = new FeedbackNetwork(LONGEST * sampleRate)
    const { left: inL, right: inR, out: wet } = network
    let preSize = 1024
    while (preSize < (LONGEST_PREDELAY + 0.1) * sampleRate + 2 * BLOCK) preSize *= 2
    const pre = [new Float32Array(preSize), new Float32Array(preSize)]
    const diffusers = DIFFUSER_SECONDS.map((s) => prime(Math.round(s * sampleRate)))
    const diffuserRings = [0, 1].map((side) => diffusers.map((n) => new Float32Array(n + side * 8)))
    const diffuserHeads = new Int32Array(8)
    const full = new Int32Array(LINES)
    for (let k = 0; k < LINES; k++)
      full[k] = prime(Math.round(SHORTEST * exp2((k / (LINES - 1)) * log2(LONGEST / SHORTEST)) * sampleRate))
    const phases = new Float64Array(MOVING)
    const swing = new Float64Array(MOVING)
    const swingTo = new Float64Array(MOVING)
    const earlyTimes = characters.map((_, k) =>
      Int32Array.from(earlyReflections(k), (e) => Math.round(e.time * sampleRate)),
    )
    const earlyLevels = characters.map((_, k) => {
      const taps = earlyReflections(k)
      const sum = Math.sqrt(taps.reduce((s, e) => s + e.level * e.level, 0) / 2)
      return Float64Array.from(taps, (e) => e.level / sum)
    })
    const earlyL = new Float64Array(BLOCK),
      earlyR = new Float64Array(BLOCK)
    const ducker = new Ducker(sampleRate)
    const gains = new Float64Array(BLOCK)
    const readouts = new Float64Array([1])
    // numbers on their way into the kernels below, which would be boxed as arguments
    const span = new Float64Array(2)
    // write place of the pre-delay, size now, input gain, low cut left and right; and what filters are set
    // for and how far it is frozen, the high cut and the body of its colour, left and right, and the feed at
    // the end of the last block
    const state = new Float64Array(11)
    const setFor = new Float64Array(12)

    function setFilters(
      decay: number,
      lows: number,
      highs: number,
      s: number,
      low0: number,
      high0: number,
      lossless: number,
    ) {
      setFor[0] = decay
      setFor[1] = lows
      setFor[2] = highs
      setFor[3] = s
      setFor[6] = low0
      setFor[7] = high0
      setFor[8] = lossless
      for (let k = 0; k < LINES; k++) {
        const { gain, low, high } = absorption(
          (full[k] * s) / sampleRate,
          decay,
          lows,
          highs,
          low0,
          high0,
          lossless,
          sampleRate,
        )
        network.setFilters(
          k,
          lossless === 0 ? IDENTITY : [low.b0 * gain, low.b1 * gain, low.a1, high.b0, high.b1, high.a1],
        )
      }
      const mean = exp2(lossDb(0.5 * (SHORTEST + LONGEST) * s, decay) / 6.020599913279624)
      state[2] = Math.sqrt(1 - mean * mean) * 0.5
    }

    return {
      readouts,
      reset() {
        ducker.reset()
        network.reset()
        for (const p of pre) p.fill(0)
        for (const side of diffuserRings) for (const ring of side) ring.fill(0)
        for (const a of [diffuserHeads, swing, swingTo]) a.fill(0)
        for (let k = 0; k < MOVING; k++) phases[k] = ((seed >>> (k * 5)) & 31) / 32
        state.fill(0)
        setFor.fill(0)
      },
      advance(frames, p) {
        for (let k = 0; k < MOVING; k++)
          phases[k] += ((0.31 + 0.17 * k) * p.motionRate.value * frames) / sampleRate
      },
      process({ in: input, out, side, song }, p) {
        let preHead = state[0] | 0,
          scale = state[1],
          cutL = state[3],
          cutR = state[4]
        const xL = input.left,
          xR = input.right,
          yL = out.left,
          yR = out.right
        const character = p.character.value
        const c = characters[character]
        const wanted = Math.max(0.13, p.size.value * c.lines)
        if (scale === 0) scale = wanted
        const freeze = p.freeze.value === 1
        const frozenFrom = state[5]
        const frozen = (state[5] = Math.max(0, Math.min(1, frozenFrom + (freeze ? 1 : -1) / FREEZE_BLOCKS)))
        const gliding = Math.abs(wanted - scale) > 1e-7 && frozen === 0
        if (!gliding && frozen === 0) scale = wanted
        const from = scale
        if (gliding) scale += (wanted - scale) * 0.06
        const lossless = frozen === 1 ? 0 : 1 - frozen
        if (
          setFor[0] !== p.decay.value ||
          setFor[1] !== p.lows.value ||
          setFor[2] !== p.highs.value ||
          setFor[3] !== scale ||
          setFor[6] !== p.lowCorner.value ||
          setFor[7] !== p.highCorner.value ||
          setFor[8] !== lossless
        )
          setFilters(
            p.decay.value,
            p.lows.value,
            p.highs.value,
            scale,
            p.lowCorner.value,
            p.highCorner.value,
            lossless,
          )
        // unless it is frozen, as loud whatever the decay
        const open = 1 - frozen
        if (lossless === 1 || setFor[9] === 0) setFor[9] = state[2]
        const inputGain = setFor[9]
        const depth = p.motion.value * 0.0006 * sampleRate
        for (let k = 0; k < MOVING; k++) {
          phases[k] += (((0.31 + 0.17 * k) * p.motionRate.value * BLOCK) / sampleRate) * open
          phases[k] -= Math.floor(phases[k])
          swing[k] = swingTo[k]
          // a triangle rounded by a cubic: near enough to a sine for a slow drift
          const t = phases[k] < 0.5 ? 4 * phases[k] - 1 : 3 - 4 * phases[k]
          const to = depth * (1 + t * (1.5 - 0.5 * t * t))
          // frozen, at a whole sample, where reading loses nothing
          swingTo[k] =
            frozen === 1
              ? full[k] * scale - 1 - Math.round(full[k] * scale - 1 - (frozenFrom === 1 ? swing[k] : to))
              : to
        }
        const synced = p.sync.value === 1
        const preFrames = p.predelay.values()
        const syncedPre = Math.min(LONGEST_PREDELAY, p.length.value / (song.beatsPerFrame * sampleRate))
        const stillPre = synced
          ? Math.round(syncedPre * sampleRate)
          : p.predelay.constant
            ? Math.round(p.predelay.value * sampleRate)
            : -1
        const feeds = p.feed.values()
        if (setFor[10] !== p.highCut.value)
          setFor[11] = onePoleWeight((setFor[10] = p.highCut.value), sampleRate)
        const wh = p.highCut.value < 19_999 ? setFor[11] : 1
        const bright = c.bright,
          body = c.body
        let cutHighL = state[6],
          cutHighR = state[7],
          bodyL = state[8],
          bodyR = state[9]
        const early = p.early.value
        const times = earlyTimes[character],
          levels = earlyLevels[character]
        const openFrom = 1 - frozenFrom,
          openStep = (open - openFrom) / BLOCK
        if (setFor[4] !== p.lowCut.value) setFor[5] = onePoleWeight((setFor[4] = p.lowCut.value), sampleRate)
        const w = setFor[5]
        const widths = p.width.values()
        const [preL, preR] = pre
        const preMask = preSize - 1
        for (let i = 0; i < BLOCK; i++) {
          const fed = feeds[i] * (openFrom + openStep * (i + 1))
          preL[preHead] = xL[i] * fed
          preR[preHead] = xR[i] * fed
          const back =
            (preHead - (stillPre >= 0 ? stillPre : Math.round(preFrames[i] * sampleRate))) & preMask
          let l = preL[back]
          let r = preR[back]
          if (early > 0) {
            let el = 0
            let er = 0
            for (let k = 0; k < times.length; k++) {
              const j = (back - times[k]) & preMask
              if (k & 1) er += levels[k] * (0.8 * preR[j] + 0.2 * preL[j])
              else el += levels[k] * (0.8 * preL[j] + 0.2 * preR[j])
            }
            earlyL[i] = el
            earlyR[i] = er
          }
          cutHighL += wh * (l - cutHighL)
          cutHighR += wh * (r - cutHighR)
          // the colour: treble that is let through, and a body below 250 Hz or so
          bodyL += 0.032 * (cutHighL - bodyL)
          bodyR += 0.032 * (cutHighR - bodyR)
          l = bright * cutHighL + (1 - bright) * bodyL * 2 + body * bodyL
          r = bright * cutHighR + (1 - bright) * bodyR * 2 + body * bodyR
          preHead = (preHead + 1) & preMask
          cutL += w * (l - cutL)
          cutR += w * (r - cutR)
          inL[i] = (l - cutL) * inputGain
          inR[i] = (r - cutR) * inputGain
        }
        span[0] = 0.78 * Math.min(1, p.diffusion.value * c.spread)
        span[1] = span[0] * p.density.value
        state[6] = cutHighL
        state[7] = cutHighR
        state[8] = Math.abs(bodyL) < 1e-20 ? 0 : bodyL
        state[9] = Math.abs(bodyR) < 1e-20 ? 0 : bodyR
        diffuse(diffuserRings[0], diffuserHeads, 0, inL, span)
        diffuse(diffuserRings[1], diffuserHeads, 4, inR, span)
        for (let k = 0; k < LINES; k += 2) {
          if (k < MOVING)
            for (let m = k; m < k + 2; m++) {
              span[0] = full[m] * from - 1 - swing[m]
              span[1] = full[m] * scale - 1 - swingTo[m]
              network.readMoving(m, span)
            }
          else if (gliding)
            for (let m = k; m < k + 2; m++) {
              span[0] = full[m] * from
              span[1] = full[m] * scale
              network.readMoving(m, span)
            }
          else network.readStill(k >> 1, Math.round(full[k] * scale), Math.round(full[k + 1] * scale))
        }
        network.run()
        const ducks = !p.duck.constant || p.duck.value > 0
        if (ducks) ducker.process(side.left, side.right, p.duck.values(), p.release.value, gains)
        readouts[0] = ducks ? gains[BLOCK - 1] : 1
        for (let i = 0; i < BLOCK; i++) {
          let l = wet[2 * i]
          let r = wet[2 * i + 1]
          if (early > 0) {
            l += early * (0.5 * earlyL[i] - l)
            r += early * (0.5 * earlyR[i] - r)
          }
          const m = 0.5 * (l + r)
          const d = 0.5 * (l - r) * widths[i]
          const g = ducks ? gains[i] : 1
          yL[i] = (m + d) * g
          yR[i] = (m - d) * g
        }
        state[0] = preHead
        state[1] = scale
        state[3] = cutL
        state[4] = cutR
      },
    }
  },
})

/** Filters of a line that change nothing. */
const IDENTITY: readonly number[] = [1, 0, 0, 1, 0, 0]

/** Four all-passes in series over a block, in place; the shorter two have the first amount. */
function diffuse(
  rings: readonly Float32Array[],
  heads: Int32Array,
  at: number,
  x: Float64Array,
  amount: Float64Array,
): void {
  for (let d = 0; d < 4; d++) {
    const g = amount[d >> 1]
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
