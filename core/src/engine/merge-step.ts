import { FRACTION } from '../dsp/fraction'
import { sineOf } from '../dsp/sines'
import type { AlignedInput } from './aligned-input'
import { BLOCK, ParamBlock, settle, stereoBlock } from '../contract/block'
import { add, copy, mixDry } from './mixing'
import type { ParamSet } from './param-set'
import { Declick } from './declick'
import { Switch } from './soft-switch'
import { type SoundStep, tellsPeak } from './step'

/**
 * Sum of what arrives, and for containers the way round it: the end of a split or a group, or the head of the
 * mix.
 */
export class MergeStep implements SoundStep {
  readonly out = stereoBlock()
  peak = FRACTION
  readonly tells = tellsPeak
  inputs: AlignedInput[] = []
  /** The input, aligned with the output; null without feedback. */
  dry: AlignedInput | null = null
  private readonly declick = new Declick()
  private readonly turn = new Switch()
  private readonly sum = stereoBlock()
  private readonly whole = new ParamBlock(1)
  /** Mixes neighbouring branches by the split's position instead of adding all. */
  selects = false
  /** Monitor state, never part of a render: only the input is heard. */
  unheard = false
  private law = -1

  /** @param shared whether another step works the parameters out */
  constructor(
    readonly params: ParamSet | null,
    private readonly shared = false,
  ) {
    this.turn.jump(true)
  }

  run(): void {
    const { params, sum, out, turn } = this
    if (!this.shared) params?.update()
    if (this.selects && params) this.select(params)
    else this.add()
    copy(this.declick.process(sum), out)
    if (params && this.dry) {
      const dry = this.dry.read()
      turn.move(params.blocks.on.value >= 0.5 && !this.unheard)
      const wet = params.blocks.wet ?? this.whole
      if (turn.start === 0 && turn.end === 0) copy(dry, out)
      else if (turn.start !== 1 || turn.end !== 1 || !wet.constant || wet.value !== 1)
        mixDry(out, dry, turn.start, turn.end, wet)
    }
    this.peak = settle(out)
  }

  /**
   * Each branch has its place along the position; between two places both sound, with equal power or
   * linearly.
   */
  private select(params: ParamSet): void {
    const { sum, inputs } = this
    const { position, law } = params.blocks
    const places = position.values()
    const linear = law.value === 1
    if (this.law >= 0 && law.value !== this.law) this.declick.cut()
    this.law = law.value
    sum.left.fill(0)
    sum.right.fill(0)
    for (let k = 0; k < inputs.length; k++) {
      const { left, right } = inputs[k].read()
      for (let i = 0; i < BLOCK; i++) {
        const d = places[i] * (inputs.length - 1) - k
        const near = 1 - (d < 0 ? -d : d)
        if (near <= 0) continue
        const w = linear ? near : sineOf(0.25 * near)
        sum.left[i] += left[i] * w
        sum.right[i] += right[i] * w
      }
    }
  }

  private add(): void {
    const { sum } = this
    const first = this.inputs.length > 0 ? this.inputs[0].read() : null
    if (first) copy(first, sum)
    else {
      sum.left.fill(0)
      sum.right.fill(0)
    }
    for (let k = 1; k < this.inputs.length; k++) add(this.inputs[k].read(), sum)
  }

  reset(): void {
    if (!this.shared) this.params?.reset()
    this.declick.reset()
    for (const input of this.inputs) input.reset()
    this.dry?.reset()
    this.turn.jump(this.params ? this.params.blocks.on.value >= 0.5 && !this.unheard : true)
    this.law = -1
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.peak
  }

  /** @param within samples after which what arrives is whole again */
  cut(within = 0): void {
    this.declick.cut(within)
  }
}
