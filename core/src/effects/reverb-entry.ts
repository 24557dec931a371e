import { BLOCK, NOTHING, type ParamBlock, type SongBlock, type StereoBlock } from '../contract/block'
import { exp2, log2 } from '../dsp/math'
import { onePoleWeight } from '../dsp/one-pole'
import { prime } from '../dsp/prime'

/** Longest pre-delay, and the last early reflection after it, in seconds. */
export const LONGEST_PREDELAY = 0.5

const DIFFUSER_SECONDS = [0.00237, 0.00393, 0.00641, 0.00907]

/**
 * What sets one character apart from the others: the size of its lines, its early reflections (seconds, and
 * how fast they fall), and its colour.
 */
export interface Character {
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

export const characters: readonly Character[] = [
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

/** Times and levels of the early reflections of a character, the right side a little later than the left. */
export function earlyReflections(
  character: number,
): readonly { readonly time: number; readonly level: number; readonly isLeft: boolean }[] {
  const c = characters[character]
  return Array.from({ length: c.early }, (_, k) => {
    const u = c.early > 1 ? k / (c.early - 1) : 0
    // closer and closer, as the images of a sound in the walls of a room are
    const way = exp2(0.6 * log2(u + 1e-9)) * (1 + 0.04 * (((k * 7) % 5) - 2))
    const time = c.first + (c.last - c.first) * way
    return {
      time,
      level: (k % 3 === 1 ? -1 : 1) * exp2((-u / Math.max(0.1, c.fall)) * 1.2),
      isLeft: k % 2 === 0,
    }
  })
}

/** Parameters of what happens before the lines. */
type EntryParams = Readonly<
  Record<
    | 'character'
    | 'predelay'
    | 'sync'
    | 'length'
    | 'feed'
    | 'early'
    | 'lowCut'
    | 'highCut'
    | 'diffusion'
    | 'density',
    ParamBlock
  >
>

interface DoubleBlock {
  readonly left: Float64Array
  readonly right: Float64Array
}

// places of `state`
const HIGH_L = 0,
  HIGH_R = 1,
  BODY_L = 2,
  BODY_R = 3,
  LOW_L = 4,
  LOW_R = 5

/** Input stage of a reverb: pre-delay, early reflections, cuts, colour of the space, diffusing all-passes. */
export class ReverbEntry {
  readonly earlyL = new Float64Array(BLOCK)
  readonly earlyR = new Float64Array(BLOCK)
  /** Past input, a power of two long. */
  private readonly pastL: Float32Array
  private readonly pastR: Float32Array
  private head = 0
  private readonly times: readonly Int32Array[]
  private readonly levels: readonly Float64Array[]
  private readonly state = new Float64Array(6)
  /** The last low cut and its weight, the last high cut and its weight. */
  private readonly known = new Float64Array(4)
  private readonly rings: readonly (readonly Float32Array[])[]
  private readonly heads = new Int32Array(8)
  /** Amounts of the shorter and of the longer all-passes. */
  private readonly amounts = new Float64Array(2)

  constructor(private readonly sampleRate: number) {
    let size = 1024
    while (size < (LONGEST_PREDELAY + 0.1) * sampleRate + 2 * BLOCK) size *= 2
    this.pastL = new Float32Array(size)
    this.pastR = new Float32Array(size)
    this.times = characters.map((_, k) =>
      Int32Array.from(earlyReflections(k), (e) => Math.round(e.time * sampleRate)),
    )
    this.levels = characters.map((_, k) => {
      const taps = earlyReflections(k)
      const sum = Math.sqrt(taps.reduce((s, e) => s + e.level * e.level, 0) / 2)
      return Float64Array.from(taps, (e) => e.level / sum)
    })
    const lengths = DIFFUSER_SECONDS.map((s) => prime(Math.round(s * sampleRate)))
    this.rings = [0, 1].map((side) => lengths.map((n) => new Float32Array(n + side * 8)))
  }

  reset(): void {
    this.pastL.fill(0)
    this.pastR.fill(0)
    this.head = 0
    this.state.fill(0)
    this.known.fill(0)
    for (const side of this.rings) for (const ring of side) ring.fill(0)
    this.heads.fill(0)
  }

  /**
   * Fills `to` from the input.
   * @param frozen how far the reverb is frozen at the beginning and at the end of the block
   * @param level of what enters, in a block of one
   */
  process(
    input: StereoBlock,
    to: DoubleBlock,
    song: SongBlock,
    p: EntryParams,
    frozen: Float64Array,
    level: Float64Array,
  ): void {
    this.receive(input, to, song, p, frozen)
    const { state, known } = this
    if (known[0] !== p.lowCut.value) known[1] = onePoleWeight((known[0] = p.lowCut.value), this.sampleRate)
    if (known[2] !== p.highCut.value) known[3] = onePoleWeight((known[2] = p.highCut.value), this.sampleRate)
    const low = known[1]
    const high = p.highCut.value < 19_999 ? known[3] : 1
    const { bright, body } = characters[p.character.value]
    const gain = level[0]
    let highL = state[HIGH_L]
    let highR = state[HIGH_R]
    let bodyL = state[BODY_L]
    let bodyR = state[BODY_R]
    let lowL = state[LOW_L]
    let lowR = state[LOW_R]
    for (let i = 0; i < BLOCK; i++) {
      highL += high * (to.left[i] - highL)
      highR += high * (to.right[i] - highR)
      // the colour: treble that is let through, and a body below 250 Hz or so
      bodyL += 0.032 * (highL - bodyL)
      bodyR += 0.032 * (highR - bodyR)
      const l = bright * highL + (1 - bright) * bodyL * 2 + body * bodyL
      const r = bright * highR + (1 - bright) * bodyR * 2 + body * bodyR
      lowL += low * (l - lowL)
      lowR += low * (r - lowR)
      to.left[i] = (l - lowL) * gain
      to.right[i] = (r - lowR) * gain
    }
    state[HIGH_L] = Math.abs(highL) < 1e-20 ? 0 : highL
    state[HIGH_R] = Math.abs(highR) < 1e-20 ? 0 : highR
    state[BODY_L] = Math.abs(bodyL) < 1e-20 ? 0 : bodyL
    state[BODY_R] = Math.abs(bodyR) < 1e-20 ? 0 : bodyR
    state[LOW_L] = Math.abs(lowL) < 1e-20 ? 0 : lowL
    state[LOW_R] = Math.abs(lowR) < 1e-20 ? 0 : lowR
  }

  /** Pre-delay and early reflections. */
  private receive(
    { left, right }: StereoBlock,
    to: DoubleBlock,
    song: SongBlock,
    p: EntryParams,
    frozen: Float64Array,
  ): void {
    const { pastL, pastR, earlyL, earlyR, sampleRate } = this
    const mask = pastL.length - 1
    const frames = p.predelay.values()
    const synced = Math.min(LONGEST_PREDELAY, p.length.value / (song.beatsPerFrame * sampleRate))
    const still =
      p.sync.value === 1
        ? Math.round(synced * sampleRate)
        : p.predelay.constant
          ? Math.round(p.predelay.value * sampleRate)
          : -1
    const feeds = p.feed.values()
    const openFrom = 1 - frozen[0]
    const openStep = (1 - frozen[1] - openFrom) / BLOCK
    const early = p.early.value > 0
    const times = this.times[p.character.value]
    const levels = this.levels[p.character.value]
    let head = this.head
    for (let i = 0; i < BLOCK; i++) {
      const fed = feeds[i] * (openFrom + openStep * (i + 1))
      pastL[head] = left[i] * fed
      pastR[head] = right[i] * fed
      const back = (head - (still >= 0 ? still : Math.round(frames[i] * sampleRate))) & mask
      to.left[i] = pastL[back]
      to.right[i] = pastR[back]
      if (early) {
        let l = 0
        let r = 0
        for (let k = 0; k < times.length; k++) {
          const j = (back - times[k]) & mask
          if (k & 1) r += levels[k] * (0.8 * pastR[j] + 0.2 * pastL[j])
          else l += levels[k] * (0.8 * pastL[j] + 0.2 * pastR[j])
        }
        earlyL[i] = l
        earlyR[i] = r
      }
      head = (head + 1) & mask
    }
    this.head = head
  }

  /** Melts single echoes together, in place. */
  diffuse({ left, right }: DoubleBlock, p: EntryParams, c: Character): void {
    const { amounts, rings, heads } = this
    amounts[0] = 0.78 * Math.min(1, p.diffusion.value * c.spread)
    amounts[1] = amounts[0] * p.density.value
    diffuse(rings[0], heads, 0, left, amounts)
    diffuse(rings[1], heads, 4, right, amounts)
  }
}

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
      // what has died away ends here, long before its numbers are denormal
      ring[h] = v < NOTHING && v > -NOTHING ? 0 : v
      x[i] = past + g * v
      if (++h === length) h = 0
    }
    heads[at + d] = h
  }
}
