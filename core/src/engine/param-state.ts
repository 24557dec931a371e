import { FRACTION } from '../dsp/fraction'
import { exp } from '../dsp/math'
import { type ParamSpec, isStepped } from '../units/parameter'
import { insideAt, insideBlock, insideOf, toNormalized } from '../units/scale'
import { BLOCK, ParamBlock } from '../contract/block'
import type { LinkState } from './link-state'

/**
 * Places of the parameter being worked out; one for all, since parameters are worked out one after the other.
 */
const normalized = new Float64Array(BLOCK)
const SETTLED = 1e-5

/**
 * One parameter with a life: the base that edits move, the links that act on it, and the block that its
 * processor reads. Survives changes of the plan, so that nothing jumps.
 */
export class ParamState {
  readonly block: ParamBlock
  links: readonly LinkState[] = []
  /** Place where the parameter stood at the end of the last block: the live value. */
  live: number
  private base: number
  private baseNormalized: number
  private glided: number
  /** The rest of a jump that a change of links would have made. */
  private residual = FRACTION
  private relinked = false
  private readonly glide: number
  private readonly stepped: boolean
  /** Whether it jumped with the last update, where its policy is to be exchanged. */
  jumped = false
  private readonly exchanged: boolean

  constructor(
    readonly spec: ParamSpec,
    value: number,
    sampleRate: number,
  ) {
    this.base = value
    this.live = this.baseNormalized = this.glided = toNormalized(spec, value)
    this.block = new ParamBlock(insideOf(spec, value))
    this.stepped = isStepped(spec)
    this.exchanged = spec.edit === 'exchanged'
    this.glide =
      this.stepped || this.exchanged || spec.glide <= 0 ? 1 : 1 - exp(-BLOCK / (spec.glide * sampleRate))
  }

  /** Moves the base; it glides there while the engine runs. */
  set(value: number): void {
    if (value === this.base) return
    this.base = value
    this.baseNormalized = toNormalized(this.spec, value)
  }

  hasLinks(links: readonly LinkState[]): boolean {
    return links.length === this.links.length && links.every((l, i) => l === this.links[i])
  }

  setLinks(links: readonly LinkState[]): void {
    if (this.hasLinks(links)) return
    this.links = links
    this.relinked = true
  }

  soften(): void {
    if (this.links.length > 0) this.relinked = true
  }

  /** To the base at once, as at the start of playing. */
  reset(): void {
    this.glided = this.live = this.baseNormalized
    this.residual = 0
    this.relinked = false
    for (const link of this.links) link.reset()
    if (this.links.length === 0) this.block.hold(insideOf(this.spec, this.base))
  }

  /**
   * Works the parameter out for this block. Returns true where it has come to rest: then it stays as it is
   * until something is set.
   */
  update(): boolean {
    const before = this.block.value
    const rests = this.next()
    this.jumped = this.exchanged && this.block.value !== before
    return rests
  }

  private next(): boolean {
    const { spec, links } = this
    const gliding = this.glided !== this.baseNormalized
    if (links.length === 0 && !gliding && this.residual === 0 && !this.relinked) {
      this.live = this.baseNormalized
      this.block.hold(insideOf(spec, this.base))
      return true
    }
    this.work(gliding)
    return false
  }

  private work(gliding: boolean): void {
    const { spec, links } = this
    const from = this.glided
    let to = from
    if (gliding) {
      to = this.glide >= 1 ? this.baseNormalized : from + (this.baseNormalized - from) * this.glide
      if (Math.abs(to - this.baseNormalized) < SETTLED) to = this.baseNormalized
      this.glided = to
    }
    for (let k = 0; k < links.length; k++) if (links[k].takeJump()) this.relinked = true
    let still = !gliding && this.residual === 0 && !this.relinked
    for (let k = 0; k < links.length; k++) if (links[k].moves()) still = false
    if (still || this.stepped) {
      let value = to
      for (let k = 0; k < links.length; k++) value += links[k].distance(to)
      value = value < 0 ? 0 : value > 1 ? 1 : value
      this.relinked = false
      this.residual = 0
      if (value !== this.live || !this.block.constant || links.length === 0)
        this.block.hold(insideAt(spec, value))
      this.live = value
      return
    }
    if (!gliding && this.residual === 0 && !this.relinked && this.straight(from)) return
    const step = (to - from) / BLOCK
    for (let i = 0; i < BLOCK; i++) normalized[i] = from + step * (i + 1)
    for (let k = 0; k < links.length; k++) links[k].add(normalized, from, to)
    if (this.relinked) {
      this.residual = this.live - normalized[0]
      this.relinked = false
    }
    if (this.residual !== 0) {
      const next = Math.abs(this.residual) < SETTLED ? 0 : this.residual * (1 - Math.min(1, this.glide))
      const slope = (next - this.residual) / BLOCK
      for (let i = 0; i < BLOCK; i++) normalized[i] += this.residual + slope * i
      this.residual = next
    }
    for (let i = 0; i < BLOCK; i++) {
      const x = normalized[i]
      normalized[i] = Math.min(1, Math.max(0, x))
    }
    this.finish()
  }

  /**
   * The common case in one go: one or two links whose distances follow their sources straight, on a base that
   * stands still.
   */
  private straight(base: number): boolean {
    const { links } = this
    if (links.length > 2 || !links[0].steady(base) || (links.length === 2 && !links[1].steady(base)))
      return false
    const a = links[0].values,
      s = links[0].scale
    if (links.length === 1) {
      const start = base + links[0].offset
      for (let i = 0; i < BLOCK; i++) {
        const x = start + s * a[i]
        normalized[i] = Math.min(1, Math.max(0, x))
      }
    } else {
      const b = links[1].values,
        t = links[1].scale
      const start = base + links[0].offset + links[1].offset
      for (let i = 0; i < BLOCK; i++) {
        const x = start + s * a[i] + t * b[i]
        normalized[i] = Math.min(1, Math.max(0, x))
      }
    }
    this.finish()
    return true
  }

  /** From normalized to what the processor reads. */
  private finish(): void {
    this.live = normalized[BLOCK - 1]
    insideBlock(this.spec, normalized, this.block.buffer)
    this.block.move()
  }
}
