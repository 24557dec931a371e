import { BLOCK, peakOf } from '../contract/block'
import type { FaderStep } from './fader-step'
import type { SoundStep } from './step'

/** Numbers of one block of a tape: what a fader gives and what it gets, both sides. */
export const TAPE_BLOCK = 4 * BLOCK

/** Stands for a track that another engine works out: writes what that recorded where the fader would. */
export class TapeStep implements SoundStep {
  readonly out: FaderStep['out']
  peak = 0

  /**
   * @param fader the end of the track
   * @param block gives the block that is to come, {@link TAPE_BLOCK} numbers
   */
  constructor(
    private readonly fader: FaderStep,
    private readonly block: () => Float32Array,
  ) {
    this.out = fader.out
  }

  run(): void {
    const block = this.block()
    const { out, before } = this.fader
    out.left.set(block.subarray(0, BLOCK))
    out.right.set(block.subarray(BLOCK, 2 * BLOCK))
    before.left.set(block.subarray(2 * BLOCK, 3 * BLOCK))
    before.right.set(block.subarray(3 * BLOCK))
    this.peak = peakOf(out)
  }

  reset(): void {}

  cut(): void {}
}

/** Writes what a fader has given in this block as a block of a tape. */
export function onTape({ out, before }: FaderStep, tape: Float32Array, at: number): void {
  tape.set(out.left, at)
  tape.set(out.right, at + BLOCK)
  tape.set(before.left, at + 2 * BLOCK)
  tape.set(before.right, at + 3 * BLOCK)
}
