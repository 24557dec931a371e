import { FRACTION } from '../dsp/fraction'
import { bend, bendBlock } from '../dsp/drawn-shape'
import { exp } from '../dsp/math'
import type { Link, Quantise } from '../project/schema'
import { noteNormalized } from '../project/targets'
import { type ParamSpec, isStepped } from '../units/parameter'
import { fromNormalized, toNormalized } from '../units/scale'
import { inScale } from '../units/tuning'
import { BLOCK, type ParamBlock } from '../contract/block'

const scratch = new Float64Array(BLOCK)
const SETTLED = 1e-6

/** The parameters that a link itself has: `amount`, `on` and its ends `from` and `to`. */
export interface LinkParams {
  readonly blocks: Readonly<Record<string, ParamBlock>>
}

// places of `ends`: where both ends stand and where they glide to, and how far it is open while switched
const FROM = 0,
  TO = 1,
  WANTED_FROM = 2,
  WANTED_TO = 3,
  OPEN = 4

/**
 * One link at work on one parameter. Its ends and whether it is on glide to edited values, its amount may be
 * moved by other links; its slew and delay keep their state over plans.
 */
export class LinkState {
  readonly id: string
  /**
   * While {@link steady}: what each value of the source is multiplied by, what is added, and those values.
   */
  scale = FRACTION
  offset = FRACTION
  private readonly shape: LinkShape
  private source: ParamBlock
  private readonly ends = new Float64Array(5)
  private slewed = NaN
  private readonly glide: number
  private readonly amount: ParamBlock
  private readonly on: ParamBlock
  private readonly from: ParamBlock
  private readonly to: ParamBlock
  private lastAmount = NaN
  /** Whether its value has jumped, so that the parameter has to make up for it. */
  private jumped = false

  /**
   * @param shift how far this index of a fan stands from the others, as a share of the way from `from` to
   * `to`
   */
  constructor(
    link: Link,
    source: ParamBlock,
    spec: ParamSpec,
    params: LinkParams,
    private readonly sampleRate: number,
    shift = 0,
  ) {
    this.id = link.id
    this.source = source
    this.amount = params.blocks.amount
    this.on = params.blocks.on
    this.from = params.blocks.from
    this.to = params.blocks.to
    this.glide = 1 - exp(-BLOCK / (0.01 * sampleRate))
    this.shape = new LinkShape(spec, shift)
    this.ends[OPEN] = link.on ? 1 : 0
    this.set(link)
    this.settleEnds()
  }

  get values(): Float64Array {
    return this.source.values()
  }

  /** Whether it can be kept in another plan. */
  fits(params: LinkParams, spec: ParamSpec, shift: number): boolean {
    return this.amount === params.blocks.amount && this.shape.spec === spec && this.shape.shift === shift
  }

  /**
   * Takes edited values; the ends glide there, and what cannot glide jumps, which the parameter makes up for.
   */
  set(link: Link): void {
    const { shape, ends } = this
    const { pitch, floating, slews } = shape
    if (shape.take(link)) this.jumped = true
    // what was followed without a slew is where a new one starts from
    if (!slews && shape.slews) this.slewed = NaN
    ends[WANTED_FROM] = shape.pitch ? noteNormalized(shape.spec, link.transpose) : link.from
    ends[WANTED_TO] = shape.pitch ? noteNormalized(shape.spec, link.transpose + 128) : link.to
    if (pitch === shape.pitch && floating === shape.floating) return
    this.settleEnds()
    this.slewed = NaN
  }

  private settleEnds(): void {
    const { ends } = this
    ends[FROM] = ends[WANTED_FROM]
    ends[TO] = ends[WANTED_TO]
  }

  /** Whether its value has jumped since the last question. */
  takeJump(): boolean {
    // the ends are parameters, which may be on their way
    if (!this.shape.pitch) {
      this.ends[WANTED_FROM] = this.from.value
      this.ends[WANTED_TO] = this.to.value
    }
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
    this.settleEnds()
    this.ends[OPEN] = this.isOn
    this.slewed = NaN
    this.lastAmount = NaN
    this.jumped = false
  }

  /** 1 where it is switched on, else 0. */
  private get isOn(): number {
    return this.on.value >= 0.5 ? 1 : 0
  }

  /** Whether its ends or its switch are on their way. */
  private get glides(): boolean {
    const { ends } = this
    return ends[FROM] !== ends[WANTED_FROM] || ends[TO] !== ends[WANTED_TO] || ends[OPEN] !== this.isOn
  }

  /** Whether anything moves in this block. */
  moves(): boolean {
    const { amount, shape } = this
    if (this.glides || !amount.constant || amount.value !== this.lastAmount) return true
    if (this.isOn * amount.value === 0 && !shape.slews) return false
    return !this.source.constant || shape.slews
  }

  /** Distance from the base while nothing moves, or for a parameter in steps. */
  distance(base: number): number {
    const { ends, shape } = this
    this.settleEnds()
    ends[OPEN] = this.isOn
    this.lastAmount = this.amount.value
    const amount = ends[OPEN] * this.lastAmount
    this.slewed = shape.placed(shape.value(this.source.value), base, ends[FROM], ends[TO], amount)
    return this.slewed
  }

  /**
   * Whether in this block its distances are a straight function of the source, for a base that stands still.
   * Then nothing else is to be done.
   */
  steady(base: number): boolean {
    const { amount, shape, ends } = this
    if (this.glides || !amount.constant || !shape.isStraight) return false
    this.lastAmount = amount.value
    this.scale = (ends[TO] - ends[FROM]) * amount.value * this.isOn
    this.offset = (shape.floating ? ends[FROM] : ends[FROM] - base) * amount.value * this.isOn
    return true
  }

  /** Adds this link's distances to a block of places, for a base that goes from `base0` to `base1`. */
  add(places: Float64Array, base0: number, base1: number): void {
    const { shape } = this
    const y = scratch
    if ((shape.floating || base0 === base1) && this.steady(base0)) {
      const x = this.source.values()
      const { scale, offset } = this
      for (let i = 0; i < BLOCK; i++) places[i] += offset + scale * x[i]
      return
    }
    this.place(y, base0, base1)
    if (shape.slews) this.slew(y)
    else this.slewed = y[BLOCK - 1]
    for (let i = 0; i < BLOCK; i++) places[i] += y[i]
  }

  /** Works out the distances of a block, before they are slewed. */
  private place(y: Float64Array, base0: number, base1: number): void {
    const { glide, amount, shape, ends } = this
    const { shift, floating, inUnit, quantise } = shape
    const from0 = ends[FROM]
    const to0 = ends[TO]
    const open0 = ends[OPEN]
    const from1 = (ends[FROM] = near(from0, ends[WANTED_FROM], glide))
    const to1 = (ends[TO] = near(to0, ends[WANTED_TO], glide))
    const open1 = (ends[OPEN] = near(open0, this.isOn, glide))
    this.lastAmount = amount.constant ? amount.value : NaN
    const amounts = amount.values()
    y.set(this.source.values())
    bendBlock(y, shape.curve)
    for (let i = 0; i < BLOCK; i++) {
      const t = (i + 1) / BLOCK
      const from = from0 + (from1 - from0) * t
      const shifted = y[i] + shift
      const way = shift === 0 ? y[i] : shifted < 0 ? 0 : shifted > 1 ? 1 : shifted
      const to = to0 + (to1 - to0) * t
      const base = base0 + (base1 - base0) * t
      let place = inUnit ? shape.evenInUnit(from, to, way, base) : from + (to - from) * way
      if (!floating) place -= base
      y[i] = place * amounts[i] * (open0 + (open1 - open0) * t)
    }
    // what is off stands where its base is, on a note or not
    if (quantise && (open0 > 0 || open1 > 0))
      for (let i = 0; i < BLOCK; i++)
        if (amounts[i] !== 0)
          y[i] = shape.quantised(y[i], base0 + ((base1 - base0) * (i + 1)) / BLOCK, quantise)
  }

  private slew(y: Float64Array): void {
    const { slewUp, slewDown } = this.shape
    const { ends, sampleRate } = this
    // times are those of the whole way between the two ends
    const way = Math.max(1e-6, Math.abs(ends[TO] - ends[FROM]))
    const up = slewUp > 0 ? way / (slewUp * sampleRate) : 2
    const down = slewDown > 0 ? way / (slewDown * sampleRate) : 2
    let s = Number.isNaN(this.slewed) ? y[0] : this.slewed
    for (let i = 0; i < BLOCK; i++) {
      const d = y[i] - s
      s += d > up ? up : d < -down ? -down : d
      y[i] = s
    }
    this.slewed = s
  }
}

/**
 * What the blocks need of a link, whose own object has another shape in each project, and what it makes of
 * one value.
 */
class LinkShape {
  pitch = false
  floating = true
  /** Whether the way between the ends is even in the parameter's unit, where its scale is not. */
  inUnit = false
  curve = FRACTION
  slewUp = FRACTION
  slewDown = FRACTION
  quantise: Link['quantise'] = null
  // quantising to notes: semitones on the whole range, and the note at its lowest place
  private readonly semitones: number
  private readonly lowestNote: number

  constructor(
    readonly spec: ParamSpec,
    readonly shift: number,
  ) {
    const perNote = noteNormalized(spec, 61) - noteNormalized(spec, 60)
    this.semitones = perNote === 0 ? 0 : 1 / perNote
    this.lowestNote = 60 - noteNormalized(spec, 60) * this.semitones
  }

  get slews(): boolean {
    return this.slewUp > 0 || this.slewDown > 0
  }

  /** Whether places are a straight function of the source. */
  get isStraight(): boolean {
    return this.curve === 0 && !this.inUnit && !this.quantise && !this.slews && this.shift === 0
  }

  /** Takes edited values; gives whether places jump by it. */
  take(link: Link): boolean {
    const { pitch, floating, inUnit, curve, quantise, spec } = this
    this.pitch = link.mode === 'pitch'
    this.floating = link.mode === 'floating'
    this.curve = this.pitch ? 0 : link.curve
    this.inUnit = link.law === 'unit' && !this.pitch && spec.law !== 'linear' && !isStepped(spec)
    this.slewUp = link.slewUp
    this.slewDown = link.slewDown
    this.quantise = link.quantise
    return (
      pitch !== this.pitch ||
      floating !== this.floating ||
      inUnit !== this.inUnit ||
      curve !== this.curve ||
      quantise !== this.quantise
    )
  }

  value(x: number): number {
    const { curve } = this
    let y = curve === 0 ? x : bend(x, curve)
    if (this.shift !== 0) {
      y += this.shift
      y = y < 0 ? 0 : y > 1 ? 1 : y
    }
    return y
  }

  placed(x: number, base: number, from: number, to: number, amount: number): number {
    let place = this.inUnit ? this.evenInUnit(from, to, x, base) : from + (to - from) * x
    if (!this.floating) place -= base
    place *= amount
    return this.quantise && amount !== 0 ? this.quantised(place, base, this.quantise) : place
  }

  /**
   * A place, or a distance from the base where floating, whose value is so far on the way between the values
   * of the ends.
   */
  evenInUnit(from: number, to: number, way: number, base: number): number {
    const { spec } = this
    const zero = this.floating ? base : 0
    const a = fromNormalized(spec, zero + from)
    return toNormalized(spec, a + (fromNormalized(spec, zero + to) - a) * way) - zero
  }

  quantised(place: number, base: number, q: Quantise): number {
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
