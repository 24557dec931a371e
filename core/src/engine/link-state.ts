import { exp, exp2, log2 } from '../dsp/math'
import type { Link } from '../project/schema'
import { BLOCK, ParamBlock } from './block'

const scratch = new Float64Array(BLOCK)
const SETTLED = 1e-6

/** Delays a modulator's output, so that it meets the sound it belongs to where that comes late. */
class OutputDelay {
  readonly out = new ParamBlock(0)
  private readonly ring: Float64Array
  private head = 0
  /** Frames for which everything in the ring has been this one value. */
  private steady = 0
  private lastValue = NaN

  constructor(readonly frames: number) { this.ring = new Float64Array(frames) }

  reset(): void {
    this.ring.fill(0)
    this.head = 0
    this.steady = 0
    this.lastValue = NaN
  }

  process(input: ParamBlock): void {
    if (input.constant && input.value === this.lastValue) this.steady += BLOCK
    else this.steady = input.constant ? BLOCK : 0
    this.lastValue = input.constant ? input.value : NaN
    if (this.steady > this.frames + BLOCK) {
      this.out.hold(input.value)
      return
    }
    const x = input.values()
    const y = this.out.buffer
    for (let i = 0; i < BLOCK; i++) {
      y[i] = this.ring[this.head]
      this.ring[this.head] = x[i]
      if (++this.head === this.frames) this.head = 0
    }
    this.out.move()
  }
}

/** Bends 0…1 by −1…1: straight at 0, late rise above, early rise below. Ends stay where they are. */
export function bend(x: number, curve: number): number {
  if (curve === 0) return x
  const k = exp2(4 * Math.abs(curve)) - 1
  return curve > 0 ? (exp2(x * log2(k + 1)) - 1) / k : 1 - (exp2((1 - x) * log2(k + 1)) - 1) / k
}

/** One link at work. Its range and amount glide to edited values; its slew and delay keep their state over plans. */
export class LinkState {
  private link: Link
  private source: ParamBlock
  private delay: OutputDelay | null = null
  private from: number
  private to: number
  private amount: number
  private slewed = NaN
  private readonly glide: number

  constructor(link: Link, source: ParamBlock, private readonly sampleRate: number) {
    this.link = link
    this.source = source
    this.from = link.from
    this.to = link.to
    this.amount = link.on ? link.amount : 0
    this.glide = 1 - exp(-BLOCK / (0.01 * sampleRate))
  }

  /** Takes edited values; the present ones glide there. */
  set(link: Link): void { this.link = link }

  connect(source: ParamBlock, delayFrames: number): void {
    this.source = source
    if ((this.delay?.frames ?? 0) !== delayFrames) this.delay = delayFrames > 0 ? new OutputDelay(delayFrames) : null
  }

  reset(): void {
    this.delay?.reset()
    this.from = this.link.from
    this.to = this.link.to
    this.amount = this.link.on ? this.link.amount : 0
    this.slewed = NaN
  }

  /** Brings the source up to this block and says whether anything moves in it. Call once a block. */
  moves(): boolean {
    if (this.delay) this.delay.process(this.source)
    const { link } = this
    const output = this.delay ? this.delay.out : this.source
    const amount = link.on ? link.amount : 0
    if (this.from !== link.from || this.to !== link.to || this.amount !== amount) return true
    if (this.amount === 0 && (link.slewUp === 0 && link.slewDown === 0)) return false
    return !output.constant || ((link.slewUp > 0 || link.slewDown > 0) && this.slewed !== this.value(output.value))
  }

  /** Distance from the base while nothing moves, or for a parameter in steps. */
  distance(base: number): number {
    const output = this.delay ? this.delay.out : this.source
    const { link } = this
    this.from = link.from
    this.to = link.to
    this.amount = link.on ? link.amount : 0
    const x = this.value(output.value)
    this.slewed = x
    return this.placed(x, base, this.from, this.to, this.amount)
  }

  /** Adds this link's distances to a block of places, for a base that goes from `base0` to `base1`. */
  add(places: Float64Array, base0: number, base1: number): void {
    const output = this.delay ? this.delay.out : this.source
    const { link, glide } = this
    const x = output.values()
    const amountTo = link.on ? link.amount : 0
    const from0 = this.from, to0 = this.to, amount0 = this.amount
    const from1 = this.from = near(from0, link.from, glide)
    const to1 = this.to = near(to0, link.to, glide)
    const amount1 = this.amount = near(amount0, amountTo, glide)
    const plain = link.curve === 0 && link.quantise === 0 && link.slewUp === 0 && link.slewDown === 0
    const steady = from0 === from1 && to0 === to1 && amount0 === amount1 && (link.mode === 'floating' || base0 === base1)
    if (plain && steady) {
      const low = link.mode === 'floating' ? from0 : from0 - base0
      const scale = (to0 - from0) * amount0
      const offset = low * amount0
      for (let i = 0; i < BLOCK; i++) places[i] += offset + scale * x[i]
      return
    }
    const y = scratch
    for (let i = 0; i < BLOCK; i++) y[i] = this.value(x[i])
    if (link.slewUp > 0 || link.slewDown > 0) {
      const up = link.slewUp > 0 ? 1 / (link.slewUp * this.sampleRate) : 2
      const down = link.slewDown > 0 ? 1 / (link.slewDown * this.sampleRate) : 2
      let s = Number.isNaN(this.slewed) ? y[0] : this.slewed
      for (let i = 0; i < BLOCK; i++) {
        const d = y[i] - s
        s += d > up ? up : d < -down ? -down : d
        y[i] = s
      }
      this.slewed = s
    }
    for (let i = 0; i < BLOCK; i++) {
      const t = (i + 1) / BLOCK
      places[i] += this.placed(y[i], base0 + (base1 - base0) * t, from0 + (from1 - from0) * t, to0 + (to1 - to0) * t, amount0 + (amount1 - amount0) * t)
    }
  }

  private value(x: number): number {
    return bend(x, this.link.curve)
  }

  private placed(x: number, base: number, from: number, to: number, amount: number): number {
    let place = from + (to - from) * x
    if (this.link.mode === 'fixed') place -= base
    place *= amount
    const q = this.link.quantise
    return q > 0 ? Math.round((base + place) * q) / q - base : place
  }
}

function near(now: number, wanted: number, glide: number): number {
  return Math.abs(wanted - now) < SETTLED ? wanted : now + (wanted - now) * glide
}
