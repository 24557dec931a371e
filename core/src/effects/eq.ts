import { BandStages, STRIDE } from '../dsp/band-stages'
import { BAND_NUMBERS, PROTOTYPE_NUMBERS, bandKinds, designBand } from '../dsp/matched-band'
import { exp2, log2 } from '../dsp/math'
import { bounded } from '../dsp/soft-ceiling'
import { straight } from '../dsp/straight-block'
import { BLOCK, type ParamBlock, type ParamBlocks, type StereoBlock } from '../contract/block'
import { boost, choice, decibel, factor, hertz, number, octaves, percent, toggle } from '../units/parameter'
import { type EffectBlock, type EffectPreset, type EffectProcessor, defineEffect } from '../contract/effect'
import { MOST_BANDS, type Pose, poseAt, readPoses, settlePoses } from './eq-poses'

/** Second-order stages of the steepest cut. */
const STAGES = 4
/** Q of each stage of Butterworth cuts of 12, 24, 36 and 48 dB an octave. */
const cutQs: readonly (readonly number[])[] = [
  [0.7071],
  [0.5412, 1.3066],
  [0.5176, 0.7071, 1.9319],
  [0.5098, 0.6013, 0.9, 2.5629],
]

const params = {
  amount: percent('Amount', {
    min: -2,
    max: 2,
    default: 1,
    tip: 'Scales all gains: 0 is flat, 100 % as set, below 0 mirrored',
  }),
  travel: percent('Travel', {
    default: 0,
    tip: 'Position between the poses; no effect without poses',
  }),
  shift: octaves('Transpose', {
    min: -4,
    max: 4,
    default: 0,
    tip: 'Transposes all bands, in octaves and semitones',
  }),
  gather: factor('Gather', {
    min: -1,
    max: 2,
    default: 1,
    tip: 'Scales the distance of all bands from the centre: 1 as set, 0 all at the centre, below 0 mirrored',
  }),
  centre: hertz('Centre', {
    min: 40,
    max: 16_000,
    default: 1000,
    tip: 'Frequency that the bands gather at',
  }),
  apart: octaves('Left/right', {
    min: -2,
    max: 2,
    default: 0,
    tip: 'Offset of the right side against the left',
  }),
  row: choice('Row', ['series', 'parallel'], 0, 'Connects the bands in series or in parallel'),
  output: choice('Listen', ['whole', 'chosen bands'], 0, 'Outputs the whole EQ, or only the chosen bands'),
  input: boost('Input', { min: -24, max: 24, default: 0, tip: 'Level before the bands' }),
  gain: boost('Output', { min: -24, max: 24, default: 0, tip: 'Level after the bands' }),
  clip: toggle('Soft clip', false, 'Limits peaks softly'),
}

/**
 * Up to twelve bands, each matched to its analogue prototype (see dsp/matched-band), on both sides, middle,
 * sides, left or right, in series or parallel. All together they are shifted, drawn together or apart, offset
 * left against right, and scaled from mirrored through flat to exaggerated. Poses stand on a strip that one
 * control travels along.
 */
export const eq = defineEffect({
  id: 'eq',
  name: 'EQ',
  group: 'filter',
  load: { kB: 162, ns: 1000 },
  tip: 'Up to twelve bands that move together and morph between poses',
  also: ['equaliser', 'equalizer', 'parametric', 'bell', 'shelf', 'notch'],
  params,
  lanes: {
    bands: {
      name: 'Bands',
      item: 'band',
      solo: true,
      spread: 'frequency',
      least: 1,
      most: MOST_BANDS,
      params: {
        on: toggle('On', true, 'Turns the band on or off'),
        kind: choice('Kind', bandKinds, 0, 'Filter type of the band'),
        frequency: hertz('Frequency', {
          min: 20,
          max: 20_000,
          default: 1000,
          tip: 'Centre or corner frequency',
        }),
        gain: decibel('Gain', { min: -24, max: 24, default: 0, tip: 'Gain of bells and shelves' }),
        q: number('Q', { min: 0.1, max: 40, default: 1, law: 'log', tip: 'Bandwidth, as Q' }),
        slope: choice('Slope', ['12 dB/oct', '24 dB/oct', '36 dB/oct', '48 dB/oct'], 0, 'Steepness of cuts'),
        place: choice('Place', ['both', 'middle', 'sides', 'left', 'right'], 0, 'Channel that it processes'),
        chosen: toggle('Chosen', false, 'Includes the band when the EQ outputs chosen bands only'),
      },
      initial: [
        { kind: 1, frequency: 120 },
        { frequency: 450 },
        { frequency: 1600 },
        { kind: 2, frequency: 6000 },
      ],
    },
  },
  settle: settlePoses,
  tail: () => 1,
  groups: [
    { name: 'All bands', gauges: ['amount', 'travel', 'shift', 'gather', 'centre', 'apart'] },
    { name: 'Order', gauges: ['row', 'output'] },
    { name: 'Output', gauges: ['input', 'gain', 'clip'] },
  ],
  main: ['amount', 'travel', 'shift', 'gather', 'apart', 'gain'],
  presets: [
    {
      name: 'Room for a voice',
      tip: 'Dips the mids for a vocal',
      params: {},
      lanes: bands([
        [3, 90, 0, 0.7, 1],
        [0, 320, -3, 1.2],
        [0, 2800, -4, 1.1],
        [2, 9000, 2, 0.7],
      ]),
    },
    {
      name: 'Weight and air',
      tip: 'Lifts lows and highs',
      params: {},
      lanes: bands([
        [1, 110, 4, 0.7],
        [0, 500, -3, 1],
        [2, 8000, 4, 0.7],
      ]),
    },
    {
      name: 'Wooden box',
      tip: 'Boxy mid resonances',
      params: {},
      lanes: bands([
        [0, 240, 7, 3],
        [0, 610, 6, 4],
        [0, 1450, 4, 5],
        [4, 6000, 0, 0.7, 1],
      ]),
    },
    {
      name: 'Growl in four poses',
      tip: 'Four vowel-like poses to travel through',
      params: { travel: 0.3 },
      lanes: bands([
        [0, 300, 9, 3],
        [0, 1100, 9, 4],
        [0, 2600, 6, 4],
      ]),
      data: {
        poses: [
          pose(0, 0, [240, 12, 3], [700, 6, 4], [2400, 2, 3]),
          pose(0.33, 0.4, [520, 14, 4], [1300, 9, 5], [2600, 4, 4]),
          pose(0.66, -0.5, [380, 10, 3], [2100, 14, 6], [3100, 8, 4]),
          pose(1, 0.2, [900, 13, 4], [1700, 4, 4], [4200, 9, 5]),
        ],
      },
    },
  ],
  create: ({ sampleRate }) => new EqProcessor(sampleRate),
})

class EqProcessor implements EffectProcessor<typeof params> {
  private readonly bands: Bands
  private readonly row = new BandStages(MOST_BANDS * STAGES, BLOCK)
  private readonly sumL = new Float64Array(BLOCK)
  private readonly sumR = new Float64Array(BLOCK)
  private readonly solos = new Uint8Array(MOST_BANDS)
  private isSoloed = false
  /** Of the block at work: bands beside one another, only what bands give heard, one run over both sides. */
  private isParallel = false
  private isAlone = false
  private isPlain = false

  constructor(sampleRate: number) {
    this.bands = new Bands(this.row, sampleRate)
  }

  reset(): void {
    this.row.reset()
    this.bands.forget()
  }

  solo(items: readonly number[]): void {
    this.isSoloed = items.length > 0
    for (let b = 0; b < MOST_BANDS; b++) this.solos[b] = items.includes(b) ? 1 : 0
  }

  take(data: Readonly<Record<string, unknown>>): void {
    this.bands.takePoses(readPoses(data.poses))
  }

  process({ in: input, out, lanes }: EffectBlock, p: ParamBlocks<typeof params>): void {
    const { row, bands } = this
    this.receive(input, p.input)
    this.isParallel = p.row.value === 1
    this.isAlone = this.isSoloed || p.output.value === 1
    if (this.isParallel || this.isAlone) {
      this.sumL.fill(0)
      this.sumR.fill(0)
    }
    bands.begin(p)
    const items = lanes.bands
    const count = items.length < MOST_BANDS ? items.length : MOST_BANDS
    this.isPlain = !this.isParallel && !this.isAlone && p.apart.constant && p.apart.value === 0
    for (let b = 0; b < count; b++) {
      const band = items[b]
      const isOff =
        band.on.value < 0.5 || (this.isSoloed ? this.solos[b] === 0 : this.isAlone && band.chosen.value < 0.5)
      bands.read(b, band, isOff)
      if (!isOff && band.place.value !== 0) this.isPlain = false
    }
    // where nothing bends, one go over the whole block is enough
    const whole = this.isPlain && !bands.heard.includes(BENDS)
    for (let start = 0; start < BLOCK; start += STRIDE) {
      const last = whole ? BLOCK - 1 : start + STRIDE - 1
      bands.goTo(last)
      for (let b = 0; b < count; b++)
        if (bands.heard[b] !== OFF) this.run(b, items[b].place.value, start, last)
      if (whole) {
        row.block()
        break
      }
      row.stride(start)
    }
    this.give(out, p)
    row.settle()
  }

  private receive(input: StereoBlock, level: ParamBlock): void {
    const { left, right } = this.row
    left.set(input.left)
    right.set(input.right)
    if (level.constant && level.value === 1) return
    const levels = level.values()
    for (let i = 0; i < BLOCK; i++) {
      left[i] *= levels[i]
      right[i] *= levels[i]
    }
  }

  /** Runs the stages of a band over a stride, or the whole block. */
  private run(b: number, place: number, start: number, last: number): void {
    const { row, bands, sumL, sumR } = this
    const heard = bands.heard[b]
    const far = heard === STRAIGHT
    if (start === 0 || heard === BENDS) bands.prepare(b, far ? BLOCK - 1 : last, heard === STILL)
    const share = far ? STRIDE / (BLOCK - start) : 1
    const stages = bands.stages(b)
    const way = (this.isParallel || this.isAlone ? 1 : 0) + (this.isAlone ? 1 : 0)
    for (let s = 0; s < stages; s++) {
      const stage = b * STAGES + s
      if (this.isPlain) row.enqueue(stage, share)
      else {
        const right = bands.now.apart === 0 ? stage : stage + row.rightSide
        row.runApart(stage, right, share, place, way, start, sumL, sumR)
      }
    }
  }

  private give(out: StereoBlock, p: ParamBlocks<typeof params>): void {
    const { isParallel, isAlone, sumL, sumR } = this
    const { left, right } = this.row
    const levels = p.gain.values()
    const clip = p.clip.value === 1
    if (isParallel || isAlone || clip || !p.gain.constant || p.gain.value !== 1) {
      for (let i = 0; i < BLOCK; i++) {
        let l = (isAlone ? sumL[i] : isParallel ? left[i] + sumL[i] : left[i]) * levels[i]
        let r = (isAlone ? sumR[i] : isParallel ? right[i] + sumR[i] : right[i]) * levels[i]
        if (clip) {
          l /= Math.sqrt(1 + 0.5 * l * l)
          r /= Math.sqrt(1 + 0.5 * r * r)
        }
        out.left[i] = bounded(l)
        out.right[i] = bounded(r)
      }
      return
    }
    for (let i = 0; i < BLOCK; i++) {
      const l = left[i]
      const r = right[i]
      out.left[i] = l > 8 || l < -8 ? bounded(l) : l
      out.right[i] = r > 8 || r < -8 ? bounded(r) : r
    }
  }
}

// what a band does in a block: one that goes straight is designed once for the block
const OFF = 0
const STILL = 1
const BENDS = 2
const STRAIGHT = 3
const nothing = new Float64Array(BLOCK)

/** The bands in a block and their designs, which are copied into the stages of `row`. */
class Bands {
  /** Processing of each band in this block. */
  readonly heard = new Uint8Array(MOST_BANDS)
  /** Settings for all bands at the design frame. */
  readonly now = { amount: 0, shift: 0, gather: 0, centre: 0, apart: 0, travel: 0 }
  /** The last design of each band, so that a still band is designed once. */
  private readonly known = new Float64Array(MOST_BANDS * 8)
  private readonly pose = new Float64Array(3)
  private readonly kinds = new Uint8Array(MOST_BANDS)
  private readonly slopes = new Uint8Array(MOST_BANDS)
  private readonly frequencies = new Array<Float64Array>(MOST_BANDS).fill(nothing)
  private readonly heights = new Array<Float64Array>(MOST_BANDS).fill(nothing)
  private readonly qs = new Array<Float64Array>(MOST_BANDS).fill(nothing)
  private readonly prototypes = Array.from({ length: MOST_BANDS * STAGES }, () =>
    new Float64Array(PROTOTYPE_NUMBERS).fill(NaN),
  )
  private poses: Pose[] = []
  /** Of the block at work, and whether anything that acts on all bands moves in it. */
  private params!: ParamBlocks<typeof params>
  private moves = false

  constructor(
    private readonly row: BandStages,
    private readonly sampleRate: number,
  ) {}

  forget(): void {
    this.known.fill(NaN)
  }

  takePoses(poses: Pose[]): void {
    this.poses = poses
    this.forget()
  }

  begin(p: ParamBlocks<typeof params>): void {
    this.params = p
    this.moves = !(
      p.amount.constant &&
      p.shift.constant &&
      p.gather.constant &&
      p.centre.constant &&
      p.apart.constant &&
      (p.travel.constant || this.poses.length < 2)
    )
    this.heard.fill(OFF)
  }

  /** Takes the values of a band. */
  read(b: number, band: Readonly<Record<string, ParamBlock>>, isOff: boolean): void {
    if (isOff) return
    const still = !this.moves && band.frequency.constant && band.gain.constant && band.q.constant
    this.kinds[b] = band.kind.value
    this.slopes[b] = band.slope.value
    this.frequencies[b] = band.frequency.values()
    this.heights[b] = band.gain.values()
    this.qs[b] = band.q.values()
    this.heard[b] = still ? STILL : !this.moves && this.goesStraight(b) ? STRAIGHT : BENDS
  }

  /** Reads the settings for all bands at this frame. */
  goTo(frame: number): void {
    const { now, params: p } = this
    now.amount = p.amount.values()[frame]
    now.shift = p.shift.values()[frame]
    now.gather = p.gather.values()[frame]
    now.centre = p.centre.values()[frame]
    now.apart = p.apart.values()[frame]
    now.travel = p.travel.values()[frame]
  }

  stages(b: number): number {
    return isCut(this.kinds[b]) ? this.slopes[b] + 1 : 1
  }

  /** Designs a band for the frame `last` where it is not the same as before. */
  prepare(b: number, last: number, still: boolean): void {
    const { known, now, pose } = this
    const posed = this.poses.length >= 2 && poseAt(this.poses, now.travel, b, pose)
    const hz = posed ? pose[0] : this.frequencies[b][last]
    const gain = posed ? pose[1] : this.heights[b][last]
    const q = posed ? pose[2] : this.qs[b][last]
    const k = 8 * b
    const shape = this.kinds[b] + 10 * this.slopes[b]
    const mark = shape + 100 * now.apart
    const fresh = !(known[k] === known[k])
    if (still || fresh || known[k + 3] !== mark) {
      if (
        !fresh &&
        still &&
        known[k] === hz &&
        known[k + 1] === gain &&
        known[k + 2] === q &&
        known[k + 3] === mark &&
        known[k + 4] === now.amount &&
        known[k + 5] === now.shift &&
        known[k + 6] === now.gather &&
        known[k + 7] === now.centre
      )
        return
      if (fresh || known[k + 3] - 100 * now.apart !== shape) this.begins(b, hz, gain, q)
      else this.design(b, hz, gain, q)
      known[k + 3] = mark
      known[k + 4] = now.amount
      known[k + 5] = now.shift
      known[k + 6] = now.gather
      known[k + 7] = now.centre
    } else this.design(b, hz, gain, q)
    known[k] = hz
    known[k + 1] = gain
    known[k + 2] = q
  }

  /** Designs a band that was another before: its numbers do not go over from what it was. */
  private begins(b: number, hz: number, gain: number, q: number): void {
    this.design(b, hz, gain, q)
    for (let s = b * STAGES; s < (b + 1) * STAGES; s++) this.row.jump(s)
  }

  /** Designs a band as it stands at one frame, both sides, into the row's next numbers. */
  private design(b: number, f: number, gain: number, q: number): void {
    const { now, row } = this
    const { next } = row
    const kind = this.kinds[b]
    const middle =
      now.gather === 1 && now.shift === 0
        ? f
        : now.centre * exp2(log2(f / now.centre) * now.gather + now.shift)
    const stages = this.stages(b)
    // both sides are one design unless they stand apart
    const sides = now.apart === 0 ? 1 : 2
    for (let side = 0; side < sides; side++) {
      const hz = sides === 1 ? middle : middle * exp2((side - 0.5) * now.apart)
      const share = (hz < 10 ? 10 : hz) / this.sampleRate
      for (let s = 0; s < stages; s++) {
        const at = (side * row.rightSide + b * STAGES + s) * BAND_NUMBERS
        const stageQ = isCut(kind)
          ? cutQs[this.slopes[b]][s] * (s === stages - 1 ? (q / 0.7071) * (stages === 1 ? 1 : 0.7071) : 1)
          : q
        const prototype = this.prototypes[b * STAGES + s]
        designBand(kind, share, stageQ < 0.1 ? 0.1 : stageQ, gain * now.amount, next, at, prototype)
        if (kind < 3) continue
        // kinds without a height are mixed with what goes in
        const w = now.amount < 0 ? 0 : now.amount > 1 ? 1 : now.amount
        next[at + 2] = 1 + w * (next[at + 2] - 1)
        next[at + 3] *= w
        next[at + 4] *= w
      }
    }
  }

  /**
   * Whether a band goes so straight through this block that its numbers may do so too: frequency and Q within
   * 2 % and 0.02 % of a line, height within ½ and 0.005 dB.
   */
  private goesStraight(b: number): boolean {
    const k = 8 * b
    const hz = this.known[k]
    const q = this.known[k + 2]
    return (
      hz === hz &&
      straight(this.frequencies[b], hz, 0.02 * hz, 2e-4 * hz) &&
      straight(this.qs[b], q, 0.02 * q, 2e-4 * q) &&
      straight(this.heights[b], this.known[k + 1], 0.5, 0.005)
    )
  }
}

/** Whether a kind is a cut, which has a slope. */
const isCut = (kind: number): boolean => kind === 3 || kind === 4

/** Bands of a preset: kind, frequency, gain, Q, slope. */
function bands(
  list: readonly (readonly [kind: number, frequency: number, gain: number, q?: number, slope?: number])[],
): EffectPreset['lanes'] {
  return {
    bands: list.map(([kind, frequency, gain, q = 1, slope = 0]) => ({ kind, frequency, gain, q, slope })),
  }
}

/** A pose of a preset: its place along the travel, its ease, and frequency, gain and Q of each band. */
function pose(
  at: number,
  ease: number,
  ...of: readonly (readonly [frequency: number, gain: number, q: number])[]
): object {
  return { at, ease, bands: of.map(([frequency, gain, q]) => ({ frequency, gain, q })) }
}
