import { FRACTION } from '../dsp/fraction'
import { bend, bendBlock } from '../dsp/drawn-shape'
import { exp } from '../dsp/math'
import type { Link, Quantise } from '../project/schema'
import { noteNormalized } from '../project/targets'
import { type ParamSpec, isStepped } from '../units/parameter'
import { fromNormalized, toNormalized } from '../units/scale'
import { inScale } from '../units/tuning'
import { BLOCK, type ParamBlock } from '../contract/block'
import type { ParamSet } from './param-set'

const scratch = new Float64Array(BLOCK)
const SETTLED = 1e-6

/**
 * One link at work on one parameter. Its ends and whether it is on glide to edited values, its amount may be
 * moved by other links; its slew and delay keep their state over plans.
 */
export class LinkState {
  readonly id: string
  // what the blocks need of the link: its own object has another shape in each project
  private floating = true
  /** Whether the way between the ends is even in the parameter's unit, where its scale is not. */
  private inUnit = false
  private curve = FRACTION
  private slewUp = FRACTION
  private slewDown = FRACTION
  private quantise: Link['quantise'] = null
  private source: ParamBlock
  private from = FRACTION
  private to = FRACTION
  /** 0…1 while it is switched off or on. */
  private open: number
  private slewed = NaN
  private readonly glide: number
  private readonly amount: ParamBlock
  private readonly on: ParamBlock
  private wantedFrom = FRACTION
  private wantedTo = FRACTION
  private lastAmount = NaN
  /** Whether its value has jumped, so that the parameter has to make up for it. */
  private jumped = false
  private pitch = false
  // quantising to notes: semitones on the whole range, and the note at its lowest place
  private readonly semitones: number
  private readonly lowestNote: number

  /**
   * @param shift how far this index of a fan stands from the others, as a share of the way from `from` to
   * `to`
   */
  constructor(
    link: Link,
    source: ParamBlock,
    private readonly spec: ParamSpec,
    params: ParamSet,
    private readonly sampleRate: number,
    private readonly shift = 0,
  ) {
    this.id = link.id
    this.source = source
    this.amount = params.blocks.amount
    this.on = params.blocks.on
    this.open = link.on ? 1 : 0
    this.glide = 1 - exp(-BLOCK / (0.01 * sampleRate))
    const perNote = noteNormalized(spec, 61) - noteNormalized(spec, 60)
    this.semitones = perNote === 0 ? 0 : 1 / perNote
    this.lowestNote = 60 - noteNormalized(spec, 60) * this.semitones
    this.set(link)
    this.from = this.wantedFrom
    this.to = this.wantedTo
  }

  /** Whether it can go on in another plan. */
  fits(params: ParamSet, spec: ParamSpec, shift: number): boolean {
    return this.amount === params.blocks.amount && this.spec === spec && this.shift === shift
  }

  /**
   * Takes edited values; the ends glide there, and what cannot glide jumps, which the parameter makes up for.
   */
  set(link: Link): void {
    const pitch = link.mode === 'pitch'
    const floating = link.mode === 'floating'
    const curve = pitch ? 0 : link.curve
    const inUnit = link.law === 'unit' && !pitch && this.spec.law !== 'linear' && !isStepped(this.spec)
    const otherMode = pitch !== this.pitch || floating !== this.floating
    if (otherMode || inUnit !== this.inUnit || curve !== this.curve || link.quantise !== this.quantise)
      this.jumped = true
    // what was followed without a slew is where a new one starts from
    if (!this.slewing && (link.slewUp > 0 || link.slewDown > 0)) this.slewed = NaN
    this.pitch = pitch
    this.floating = floating
    this.inUnit = inUnit
    this.curve = curve
    this.slewUp = link.slewUp
    this.slewDown = link.slewDown
    this.quantise = link.quantise
    this.wantedFrom = pitch ? noteNormalized(this.spec, link.transpose) : link.from
    this.wantedTo = pitch ? noteNormalized(this.spec, link.transpose + 128) : link.to
    if (!otherMode) return
    this.from = this.wantedFrom
    this.to = this.wantedTo
    this.slewed = NaN
  }

  /** Whether its value has jumped since the last question. */
  takeJump(): boolean {
    const was = this.jumped
    this.jumped = false
    return was
  }

  /** Whether it follows this output. */
  hears(source: ParamBlock): boolean {
    return this.source === source
  }

  /** @param source output of a modulator, in time with the sound that the parameter works on */
  connect(source: ParamBlock): void {
    this.source = source
    this.slewed = NaN
    this.jumped = true
  }

  reset(): void {
    this.from = this.wantedFrom
    this.to = this.wantedTo
    this.open = this.on.value >= 0.5 ? 1 : 0
    this.slewed = NaN
    this.lastAmount = NaN
    this.jumped = false
  }

  private get slewing(): boolean {
    return this.slewUp > 0 || this.slewDown > 0
  }

  /** Whether anything moves in this block. */
  moves(): boolean {
    const { amount, source: output, slewing } = this
    const open = this.on.value >= 0.5 ? 1 : 0
    if (
      this.from !== this.wantedFrom ||
      this.to !== this.wantedTo ||
      this.open !== open ||
      !amount.constant ||
      amount.value !== this.lastAmount
    )
      return true
    if (open * amount.value === 0 && !slewing) return false
    return !output.constant || slewing
  }

  /** Distance from the base while nothing moves, or for a parameter in steps. */
  distance(base: number): number {
    this.from = this.wantedFrom
    this.to = this.wantedTo
    this.open = this.on.value >= 0.5 ? 1 : 0
    this.lastAmount = this.amount.value
    this.slewed = this.placed(
      this.value(this.source.value),
      base,
      this.from,
      this.to,
      this.open * this.amount.value,
    )
    return this.slewed
  }

  /**
   * While {@link steady}: what each value of the source is multiplied by, what is added, and those values.
   */
  scale = FRACTION
  offset = FRACTION
  get values(): Float64Array {
    return this.source.values()
  }

  /**
   * Whether in this block its distances are a straight function of the source, for a base that stands still.
   * Then nothing else is to be done.
   */
  steady(base: number): boolean {
    const { amount, shift } = this
    const open = this.on.value >= 0.5 ? 1 : 0
    if (
      this.from !== this.wantedFrom ||
      this.to !== this.wantedTo ||
      this.open !== open ||
      !amount.constant ||
      this.curve !== 0 ||
      this.inUnit ||
      this.quantise ||
      this.slewing ||
      shift !== 0
    )
      return false
    this.lastAmount = amount.value
    this.scale = (this.to - this.from) * amount.value * open
    this.offset = (this.floating ? this.from : this.from - base) * amount.value * open
    return true
  }

  /** Adds this link's distances to a block of places, for a base that goes from `base0` to `base1`. */
  add(places: Float64Array, base0: number, base1: number): void {
    const { glide, amount, slewing, slewUp, slewDown } = this
    const x = this.source.values()
    if ((this.floating || base0 === base1) && this.steady(base0)) {
      const { scale, offset } = this
      for (let i = 0; i < BLOCK; i++) places[i] += offset + scale * x[i]
      return
    }
    const from0 = this.from,
      to0 = this.to,
      open0 = this.open
    const from1 = (this.from = near(from0, this.wantedFrom, glide))
    const to1 = (this.to = near(to0, this.wantedTo, glide))
    const open1 = (this.open = near(open0, this.on.value >= 0.5 ? 1 : 0, glide))
    this.lastAmount = amount.constant ? amount.value : NaN
    const amounts = amount.values()
    const { curve, shift, floating, inUnit, quantise } = this
    const y = scratch
    y.set(x)
    bendBlock(y, curve)
    for (let i = 0; i < BLOCK; i++) {
      const t = (i + 1) / BLOCK
      const from = from0 + (from1 - from0) * t
      const shifted = y[i] + shift
      const way = shift === 0 ? y[i] : shifted < 0 ? 0 : shifted > 1 ? 1 : shifted
      const to = to0 + (to1 - to0) * t
      const base = base0 + (base1 - base0) * t
      let place = inUnit ? this.evenInUnit(from, to, way, base) : from + (to - from) * way
      if (!floating) place -= base
      y[i] = place * amounts[i] * (open0 + (open1 - open0) * t)
    }
    // what is off stands where its base is, on a note or not
    if (quantise && (open0 > 0 || open1 > 0))
      for (let i = 0; i < BLOCK; i++)
        if (amounts[i] !== 0)
          y[i] = this.quantised(y[i], base0 + ((base1 - base0) * (i + 1)) / BLOCK, quantise)
    if (slewing) {
      // times are those of the whole way between the two ends
      const way = Math.max(1e-6, Math.abs(to1 - from1))
      const up = slewUp > 0 ? way / (slewUp * this.sampleRate) : 2
      const down = slewDown > 0 ? way / (slewDown * this.sampleRate) : 2
      let s = Number.isNaN(this.slewed) ? y[0] : this.slewed
      for (let i = 0; i < BLOCK; i++) {
        const d = y[i] - s
        s += d > up ? up : d < -down ? -down : d
        y[i] = s
      }
      this.slewed = s
    } else this.slewed = y[BLOCK - 1]
    for (let i = 0; i < BLOCK; i++) places[i] += y[i]
  }

  private value(x: number): number {
    const { curve } = this
    let y = curve === 0 ? x : bend(x, curve)
    if (this.shift !== 0) {
      y += this.shift
      y = y < 0 ? 0 : y > 1 ? 1 : y
    }
    return y
  }

  private placed(x: number, base: number, from: number, to: number, amount: number): number {
    let place = this.inUnit ? this.evenInUnit(from, to, x, base) : from + (to - from) * x
    if (!this.floating) place -= base
    place *= amount
    return this.quantise && amount !== 0 ? this.quantised(place, base, this.quantise) : place
  }

  /**
   * A place, or a distance from the base where floating, whose value is so far on the way between the values
   * of the ends.
   */
  private evenInUnit(from: number, to: number, way: number, base: number): number {
    const { spec } = this
    const zero = this.floating ? base : 0
    const a = fromNormalized(spec, zero + from)
    return toNormalized(spec, a + (fromNormalized(spec, zero + to) - a) * way) - zero
  }

  private quantised(place: number, base: number, q: Quantise): number {
    if (q.to === 'steps') return Math.round((base + place) * q.steps) / q.steps - base
    if (this.semitones === 0) return place
    return (
      (inScale(this.lowestNote + (base + place) * this.semitones, q.root, q.scale) - this.lowestNote) /
        this.semitones -
      base
    )
  }
}

function near(now: number, wanted: number, glide: number): number {
  return Math.abs(wanted - now) < SETTLED ? wanted : now + (wanted - now) * glide
}
