import { BlockDelay } from '../dsp/block-delay'
import { BLOCK, type StereoBlock, stereoBlock } from '../contract/block'
import type { AlignedInput } from './aligned-input'

/** The input of an effect, delayed by its latency. */
export class DryPath {
  private readonly left: BlockDelay
  private readonly right: BlockDelay
  private readonly out = stereoBlock()
  private fresh = true

  constructor(readonly latency: number) {
    this.left = new BlockDelay(latency)
    this.right = new BlockDelay(latency)
  }

  /** Nothing has gone in. */
  empty(): void {
    this.left.reset()
    this.right.reset()
  }

  reset(): void {
    this.empty()
    this.fresh = false
  }

  /** A block; before the first, as if the input had gone on like that for ever. */
  process(x: StereoBlock, input: AlignedInput): StereoBlock {
    if (this.latency === 0) return x
    if (this.fresh) {
      this.fresh = false
      input.prime(this.left, this.right, x)
    }
    this.left.process(x.left, this.out.left, BLOCK)
    this.right.process(x.right, this.out.right, BLOCK)
    return this.out
  }
}
