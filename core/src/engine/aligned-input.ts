import { BlockDelay } from '../dsp/block-delay'
import { BLOCK, type StereoBlock, stereoBlock } from '../contract/block'

/** One connection between two steps, delayed so that all that meets at its end meets in time. */
export class AlignedInput {
  private readonly left: BlockDelay | null
  private readonly right: BlockDelay | null
  private readonly delayed: StereoBlock

  private fresh = true

  constructor(readonly source: StereoBlock, readonly delay: number) {
    this.left = delay > 0 ? new BlockDelay(delay) : null
    this.right = delay > 0 ? new BlockDelay(delay) : null
    this.delayed = delay > 0 ? stereoBlock() : source
  }

  reset(): void {
    this.fresh = false
    this.left?.reset()
    this.right?.reset()
  }

  read(): StereoBlock {
    if (this.left && this.right) {
      // made while playing: begins with what would have come before, so that nothing jumps when the delayed sound arrives
      if (this.fresh) {
        this.fresh = false
        this.left.prime(this.source.left)
        this.right.prime(this.source.right)
      }
      this.left.process(this.source.left, this.delayed.left, BLOCK)
      this.right.process(this.source.right, this.delayed.right, BLOCK)
    }
    return this.delayed
  }
}
