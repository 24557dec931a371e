import { BLOCK, type StereoBlock, peakOf } from '../contract/block'
import { FaderStep } from './fader-step'
import type { SoundStep } from './step'

/** Numbers of one block of a tape at most: what a step gives and, of a fader, what it gets; both sides. */
export const TAPE_BLOCK = 4 * BLOCK

/** The blocks of a step that others read. */
const blocksOf = (step: SoundStep): readonly StereoBlock[] =>
  step instanceof FaderStep ? [step.out, step.before] : [step.out]

/** Numbers of one block of the tape of a step. */
export const tapeBlock = (step: SoundStep): number => 2 * BLOCK * blocksOf(step).length

/** Stands for a step that has been worked out elsewhere: writes what was recorded where that would. */
export class TapeStep implements SoundStep {
  readonly out: StereoBlock
  peak = 0
  private readonly blocks: readonly StereoBlock[]

  /** @param block gives the block that is to come, as {@link onTape} has written it */
  constructor(
    step: SoundStep,
    private readonly block: () => Float32Array,
  ) {
    this.out = step.out
    this.blocks = blocksOf(step)
  }

  run(): void {
    const block = this.block()
    for (let k = 0; k < this.blocks.length; k++) {
      const { left, right } = this.blocks[k]
      left.set(block.subarray(2 * k * BLOCK, (2 * k + 1) * BLOCK))
      right.set(block.subarray((2 * k + 1) * BLOCK, (2 * k + 2) * BLOCK))
    }
    this.peak = peakOf(this.out)
  }

  reset(): void {}

  cut(): void {}
}

/** Writes what a step has given in this block as a block of a tape. */
export function onTape(step: SoundStep, tape: Float32Array, at: number): void {
  for (const [k, { left, right }] of blocksOf(step).entries()) {
    tape.set(left, at + 2 * k * BLOCK)
    tape.set(right, at + (2 * k + 1) * BLOCK)
  }
}
