import { FRACTION } from '../dsp/fraction'
import { Crossover } from '../dsp/crossover'
import { LinearBand } from '../dsp/linear-band'
import { type SplitMode, crossovers } from '../project/nodes/split'
import type { AlignedInput } from './aligned-input'
import { BLOCK, settle, stereoBlock } from '../contract/block'
import { copy } from './mixing'
import type { ParamSet } from './param-set'
import { Declick } from './declick'
import { type SoundStep, tellsPeak } from './step'

/** Gives each branch of a split its part of the input. */
export class BranchInStep implements SoundStep {
  readonly out = stereoBlock()
  peak = FRACTION
  readonly tells = tellsPeak
  input!: AlignedInput
  /** How many branches there are, and which this is. */
  private count = 1
  private index = 0
  private readonly declick = new Declick()
  private readonly sections = [0, 1, 2, 3].map(() => new Crossover())

  private readonly linearBand: LinearBand | null

  /** @param linear whether bands are in linear phase, and so come later */
  constructor(
    private mode: SplitMode,
    readonly params: ParamSet,
    private readonly sampleRate: number,
    readonly linear = false,
  ) {
    this.linearBand = linear ? new LinearBand() : null
  }

  /** Whether it has reached the requested state. */
  gives(mode: SplitMode, index: number, count: number): boolean {
    return mode === this.mode && index === this.index && count === this.count
  }

  /** Gives another part of the input from the next block on. */
  give(mode: SplitMode, index: number, count: number): void {
    this.mode = mode
    this.index = index
    this.count = count
    this.declick.cut()
  }

  run(): void {
    const { left, right } = this.input.read()
    const { out, mode } = this
    const second = this.index === 1
    if (mode === 'left-right') {
      if (second) out.left.fill(0)
      else out.left.set(left)
      if (second) out.right.set(right)
      else out.right.fill(0)
    } else if (mode === 'mid-side') {
      for (let i = 0; i < BLOCK; i++) {
        if (second) {
          const s = 0.5 * (left[i] - right[i])
          out.left[i] = s
          out.right[i] = -s
        } else out.left[i] = out.right[i] = 0.5 * (left[i] + right[i])
      }
    } else {
      out.left.set(left)
      out.right.set(right)
      if (mode === 'bands') this.band()
    }
    const joined = this.declick.process(out)
    if (joined !== out) copy(joined, out)
    this.peak = settle(out)
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.peak
  }

  /**
   * Above every crossover below it, below the one above it, and in phase with those further up, so that all
   * bands add up flat.
   */
  private band(): void {
    const { out, index, sampleRate } = this
    const last = Math.min(this.count, 5) - 1
    if (this.linearBand && index <= last) {
      const low = index === 0 ? 0 : this.corner(index - 1)
      this.linearBand.process(
        out.left,
        out.right,
        low,
        index === last ? Infinity : this.corner(index),
        sampleRate,
      )
      return
    }
    for (let k = 0; k < last; k++)
      this.sections[k].process(
        out.left,
        out.right,
        k < index ? 'high' : k === index ? 'low' : 'all',
        this.params.blocks[crossovers[k]].values(),
        sampleRate,
      )
    if (index > last) {
      out.left.fill(0)
      out.right.fill(0)
    }
  }

  /** Corner above a band at the end of this block; never below the ones before it. */
  private corner(index: number): number {
    let most = 0
    for (let k = 0; k <= index; k++) {
      const hz = this.params.blocks[crossovers[k]]
      const now = hz.constant ? hz.value : hz.buffer[BLOCK - 1]
      if (now > most) most = now
    }
    return most
  }

  reset(): void {
    this.input.reset()
    this.linearBand?.reset()
    for (const s of this.sections) s.reset()
    this.declick.reset()
  }

  cut(): void {
    this.declick.cut()
  }
}
