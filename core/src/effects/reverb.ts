import { FeedbackNetwork, LINES } from '../dsp/feedback-network'
import { Ducker } from '../dsp/ducker'
import { exp2, log2, sinCycles, tanPi } from '../dsp/math'
import { prime } from '../dsp/prime'
import { BLOCK, type ParamBlocks, type StereoBlock } from '../contract/block'
import { beats, choice, decibel, hertz, percent, ratio, seconds, toggle } from '../units/parameter'
import { type EffectBlock, type EffectProcessor, type ParamValues, defineEffect } from '../contract/effect'
import { type Character, LONGEST_PREDELAY, ReverbEntry, characters } from './reverb-entry'

/** Line lengths at full size in seconds: ratios spread evenly on a log scale, then made prime in samples. */
const SHORTEST = 0.0223
const LONGEST = 0.0941
/**
 * How many lines move: enough to break up standing lines, few enough to keep the cost of interpolation low.
 */
const MOVING = 4

/** Blocks in which the network goes over into a freeze and back. */
const FREEZE_BLOCKS = 12
const params = {
  decay: seconds('Decay', {
    min: 0.1,
    max: 30,
    default: 2.4,
    tip: 'RT60: time in which the mid frequencies fall by 60 dB',
  }),
  character: choice(
    'Character',
    characters.map((c) => c.name),
    0,
    'Type of space: early reflections, density and colour',
  ),
  size: percent('Size', { min: 0.2, default: 0.8, tip: 'Size of the space, from a box to a hall' }),
  predelay: seconds('Pre-delay', {
    min: 0,
    max: LONGEST_PREDELAY,
    default: 0.012,
    tip: 'Time before the reverb starts',
  }),
  sync: toggle('Sync', false, 'Sets the pre-delay as a note length, up to half a second'),
  length: beats('Pre-delay length', {
    min: 1 / 32,
    max: 1,
    default: 1 / 8,
    tip: 'Pre-delay as a note length',
  }),
  feed: percent('Feed', { default: 1, tip: 'Input level; at 0 % the existing reverb rings out' }),
  early: percent('Early', {
    default: 0,
    tip: 'Balance from late reverb (0 %) to early reflections (100 %)',
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
    tip: 'Below this frequency, Lows scales the decay',
  }),
  highCorner: hertz('Upper crossover', {
    min: 1200,
    max: 12_000,
    default: 4000,
    tip: 'Above this frequency, Highs scales the decay',
  }),
  diffusion: percent('Diffusion', { default: 0.8, tip: 'How fast single echoes blend' }),
  density: percent('Density', { default: 1, tip: 'Echo density in the first 100 ms' }),
  motion: percent('Motion', { default: 0.25, tip: 'Slow modulation that avoids metallic ringing' }),
  motionRate: ratio('Motion rate', { min: 0.1, max: 10, default: 1, tip: 'Rate of the modulation' }),
  lowCut: hertz('Low cut', { min: 20, max: 1000, default: 80, tip: 'High-pass before the reverb' }),
  highCut: hertz('High cut', {
    min: 1000,
    max: 20_000,
    default: 20_000,
    tip: 'Low-pass before the reverb; off at 20 kHz',
  }),
  width: percent('Width', { max: 1.5, default: 1, tip: 'Stereo width of the reverb; 0 % is mono' }),
  freeze: toggle('Freeze', false, 'Sustains the reverb forever and ignores new input'),
  duck: decibel('Duck', {
    min: 0,
    max: 40,
    default: 0,
    tip: 'Reduces the reverb while the input or the sidechain is loud',
  }),
  release: seconds('Duck release', {
    min: 0.02,
    max: 2,
    default: 0.3,
    tip: 'Time in which the reverb recovers',
  }),
  trails: toggle('Trails', false, 'Lets the reverb ring out when the effect is turned off'),
}

type Params = ParamBlocks<typeof params>

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
  tip: 'Reverb from a box to a hall, with separate decay for lows and highs',
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
  pair: { sync: 'sync', free: 'predelay', synced: 'length' },
  applies: (param, value) => param !== 'release' || value('duck') > 0,
  groups: [
    { name: 'Space', gauges: ['character', 'size', 'decay', 'early', 'diffusion', 'density'] },
    { name: 'Pre-delay', gauges: ['sync', 'predelay', 'length'] },
    { name: 'Feed', gauges: ['feed', 'freeze', 'trails'] },
    { name: 'Tone', gauges: ['lows', 'highs', 'lowCorner', 'highCorner', 'lowCut', 'highCut'] },
    { name: 'Modulation', gauges: ['motion', 'motionRate'] },
    { name: 'Ducking', gauges: ['duck', 'release'] },
    { name: 'Output', gauges: ['width'] },
  ],
  main: ['decay', 'size', 'predelay', 'length', 'lows', 'highs', 'character'],
  presets: [
    { name: 'Wheelhouse', tip: 'Small room', params: { decay: 0.6, wet: 0.25 } },
    { name: 'Empty hold', tip: 'Large metallic hold', params: { decay: 4.5, wet: 0.35 } },
    { name: 'Night harbour', tip: 'Long, dark hall', params: { decay: 9, wet: 0.3 } },
    { name: 'Distant', tip: 'Mostly reverb, far away', params: { decay: 2.2, wet: 0.15 } },
    {
      name: 'Tiled galley',
      tip: 'Bright small room',
      params: { character: 1, decay: 0.8, early: 0.35, wet: 0.35 },
    },
    {
      name: 'Steel plate',
      tip: 'Dense plate',
      params: { character: 2, decay: 1.9, early: 0.1, lowCut: 220, wet: 0.3 },
    },
    {
      name: 'Cargo hold',
      tip: 'Huge space',
      params: { character: 3, decay: 3.6, early: 0.3, lows: 1.4, highs: 0.35, wet: 0.4 },
    },
    {
      name: 'Ducked by the drums',
      tip: 'Steps back for each hit',
      params: { decay: 5, duck: 16, release: 0.4, wet: 0.45 },
    },
  ],
  create: ({ sampleRate, seed }) => new ReverbProcessor(sampleRate, seed),
})

/** Filters of a line that change nothing. */
const IDENTITY: readonly number[] = [1, 0, 0, 1, 0, 0]

class ReverbProcessor implements EffectProcessor<typeof params> {
  readonly readouts = new Float64Array([1])
  private readonly network: FeedbackNetwork
  private readonly entry: ReverbEntry
  private readonly lines: Lines
  private readonly ducker: Ducker
  private readonly gains = new Float64Array(BLOCK)
  /** How far it is frozen at the end of the last block, and of this one. */
  private readonly frozen = new Float64Array(2)

  constructor(sampleRate: number, seed: number) {
    this.network = new FeedbackNetwork(LONGEST * sampleRate)
    this.entry = new ReverbEntry(sampleRate)
    this.lines = new Lines(this.network, sampleRate, seed)
    this.ducker = new Ducker(sampleRate)
  }

  reset(): void {
    this.ducker.reset()
    this.network.reset()
    this.entry.reset()
    this.lines.reset()
    this.frozen.fill(0)
  }

  advance(frames: number, p: Params): void {
    this.lines.advance(frames, p)
  }

  process({ in: input, out, side, song }: EffectBlock, p: Params): void {
    const { frozen, entry, lines, ducker, gains } = this
    const c = characters[p.character.value]
    frozen[0] = frozen[1]
    frozen[1] = Math.max(0, Math.min(1, frozen[0] + (p.freeze.value === 1 ? 1 : -1) / FREEZE_BLOCKS))
    lines.follow(p, c, frozen)
    lines.swing(p, frozen)
    entry.process(input, this.network, song, p, frozen, lines.level)
    entry.diffuse(this.network, p, c)
    lines.run()
    const ducks = !p.duck.constant || p.duck.value > 0
    if (ducks) ducker.process(side.left, side.right, p.duck.values(), p.release.value, gains)
    else gains.fill(1)
    this.readouts[0] = gains[BLOCK - 1]
    this.give(out, p)
  }

  private give({ left, right }: StereoBlock, p: Params): void {
    const { gains } = this
    const { out: wet } = this.network
    const { earlyL, earlyR } = this.entry
    const early = p.early.value
    const widths = p.width.values()
    for (let i = 0; i < BLOCK; i++) {
      let l = wet[2 * i]
      let r = wet[2 * i + 1]
      if (early > 0) {
        l += early * (0.5 * earlyL[i] - l)
        r += early * (0.5 * earlyR[i] - r)
      }
      const m = 0.5 * (l + r)
      const d = 0.5 * (l - r) * widths[i]
      left[i] = (m + d) * gains[i]
      right[i] = (m - d) * gains[i]
    }
  }
}

/** Lengths, filters and movement of the lines. */
class Lines {
  /** Level of what enters: unless it is frozen, as loud whatever the decay. */
  readonly level = new Float64Array(1)
  /** Lengths at full size, in samples. */
  private readonly full = new Int32Array(LINES)
  private readonly phases = new Float64Array(MOVING)
  private readonly swings = new Float64Array(MOVING)
  private readonly swingsTo = new Float64Array(MOVING)
  /** Size at the beginning and at the end of the block; 0 where it is not known yet. */
  private readonly scale = new Float64Array(2)
  /** Settings of the filters: decay, lows, highs, size, corners, losses. */
  private readonly setFor = new Float64Array(7)
  /** Ends of the way of a reading place over a block; as arguments they would be boxed. */
  private readonly span = new Float64Array(2)
  private levelFor = 0

  constructor(
    private readonly network: FeedbackNetwork,
    private readonly sampleRate: number,
    private readonly seed: number,
  ) {
    const octaves = log2(LONGEST / SHORTEST)
    for (let k = 0; k < LINES; k++)
      this.full[k] = prime(Math.round(SHORTEST * exp2((k / (LINES - 1)) * octaves) * sampleRate))
  }

  reset(): void {
    for (const a of [this.swings, this.swingsTo, this.scale, this.setFor, this.level]) a.fill(0)
    this.levelFor = 0
    for (let k = 0; k < MOVING; k++) this.phases[k] = ((this.seed >>> (k * 5)) & 31) / 32
  }

  advance(frames: number, p: Params): void {
    for (let k = 0; k < MOVING; k++)
      this.phases[k] += ((0.31 + 0.17 * k) * p.motionRate.value * frames) / this.sampleRate
  }

  /** Moves the size on and sets the filters where they are set for something else. */
  follow(p: Params, c: Character, frozen: Float64Array): void {
    const { scale, setFor, level } = this
    const wanted = Math.max(0.13, p.size.value * c.lines)
    scale[0] = scale[1]
    if (scale[0] === 0 || (frozen[1] === 0 && Math.abs(wanted - scale[0]) <= 1e-7)) scale[0] = wanted
    scale[1] = scale[0]
    if (frozen[1] === 0 && Math.abs(wanted - scale[0]) > 1e-7) scale[1] += (wanted - scale[0]) * 0.06
    const lossless = frozen[1] === 1 ? 0 : 1 - frozen[1]
    if (
      setFor[0] !== p.decay.value ||
      setFor[1] !== p.lows.value ||
      setFor[2] !== p.highs.value ||
      setFor[3] !== scale[1] ||
      setFor[4] !== p.lowCorner.value ||
      setFor[5] !== p.highCorner.value ||
      setFor[6] !== lossless
    ) {
      setFor[0] = p.decay.value
      setFor[1] = p.lows.value
      setFor[2] = p.highs.value
      setFor[3] = scale[1]
      setFor[4] = p.lowCorner.value
      setFor[5] = p.highCorner.value
      setFor[6] = lossless
      this.setFilters()
    }
    if (lossless === 1 || level[0] === 0) level[0] = this.levelFor
  }

  private setFilters(): void {
    const { full, sampleRate, network, setFor } = this
    const decay = setFor[0]
    const scale = setFor[3]
    const lossless = setFor[6]
    for (let k = 0; k < LINES; k++) {
      const { gain, low, high } = absorption(
        (full[k] * scale) / sampleRate,
        decay,
        setFor[1],
        setFor[2],
        setFor[4],
        setFor[5],
        lossless,
        sampleRate,
      )
      network.setFilters(
        k,
        lossless === 0 ? IDENTITY : [low.b0 * gain, low.b1 * gain, low.a1, high.b0, high.b1, high.a1],
      )
    }
    const mean = exp2(lossDb(0.5 * (SHORTEST + LONGEST) * scale, decay) / 6.020599913279624)
    this.levelFor = Math.sqrt(1 - mean * mean) * 0.5
  }

  /** Moves the reading places of the lines that move. */
  swing(p: Params, frozen: Float64Array): void {
    const { phases, swings, swingsTo, full, sampleRate } = this
    const scale = this.scale[1]
    const open = 1 - frozen[1]
    const depth = p.motion.value * 0.0006 * sampleRate
    for (let k = 0; k < MOVING; k++) {
      phases[k] += (((0.31 + 0.17 * k) * p.motionRate.value * BLOCK) / sampleRate) * open
      phases[k] -= Math.floor(phases[k])
      swings[k] = swingsTo[k]
      // a triangle rounded by a cubic: near enough to a sine for a slow drift
      const t = phases[k] < 0.5 ? 4 * phases[k] - 1 : 3 - 4 * phases[k]
      const to = depth * (1 + t * (1.5 - 0.5 * t * t))
      // frozen, at a whole sample, where reading loses nothing
      swingsTo[k] =
        frozen[1] === 1
          ? full[k] * scale - 1 - Math.round(full[k] * scale - 1 - (frozen[0] === 1 ? swings[k] : to))
          : to
    }
  }

  /** Reads all lines and takes them round. */
  run(): void {
    const { network, span, full, scale, swings, swingsTo } = this
    const gliding = scale[0] !== scale[1]
    for (let k = 0; k < LINES; k += 2) {
      if (k < MOVING)
        for (let m = k; m < k + 2; m++) {
          span[0] = full[m] * scale[0] - 1 - swings[m]
          span[1] = full[m] * scale[1] - 1 - swingsTo[m]
          network.readMoving(m, span)
        }
      else if (gliding)
        for (let m = k; m < k + 2; m++) {
          span[0] = full[m] * scale[0]
          span[1] = full[m] * scale[1]
          network.readMoving(m, span)
        }
      else network.readStill(k >> 1, Math.round(full[k] * scale[1]), Math.round(full[k + 1] * scale[1]))
    }
    network.run()
  }
}
