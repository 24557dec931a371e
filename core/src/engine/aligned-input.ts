import { BlockDelay } from '../dsp/block-delay'
import { BLOCK, type StereoBlock, stereoBlock } from '../contract/block'

/** One connection between two steps, delayed so that all that meets at its end meets in time. */
export class AlignedInput {
  private readonly left: BlockDelay | null
  private readonly right: BlockDelay | null
  private readonly delayed: StereoBlock
  /**
   * The block before the first one that is read, where that is known: what a delay that is made while playing
   * begins with.
   */
  private before: StereoBlock | null = null
  private fresh = true

  constructor(
    readonly source: StereoBlock,
    readonly delay: number,
  ) {
    this.left = delay > 0 ? new BlockDelay(delay) : null
    this.right = delay > 0 ? new BlockDelay(delay) : null
    this.delayed = delay > 0 ? stereoBlock() : source
  }

  reset(): void {
    this.fresh = false
    this.before = null
    this.left?.reset()
    this.right?.reset()
  }

  /**
   * Remembers what its source gives now, between two blocks: the next one is the first that is read.
   * Allocates.
   */
  remember(): void {
    const { left, right } = this.source
    this.before = { left: left.slice(), right: right.slice() }
  }

  read(): StereoBlock {
    if (this.left && this.right) {
      // made while playing: begins with what came before, or would have, so that nothing jumps when the
      // delayed sound arrives
      if (this.fresh) {
        this.fresh = false
        this.prime(this.left, this.right, this.source)
      }
      this.left.process(this.source.left, this.delayed.left, BLOCK)
      this.right.process(this.source.right, this.delayed.right, BLOCK)
    }
    return this.delayed
  }

  /**
   * Has delays of what it gives begin with what came before that, or would have: `now` is the first block of
   * it.
   */
  prime(left: BlockDelay, right: BlockDelay, now: StereoBlock): void {
    const { before } = this
    this.before = null
    if (before) {
      left.primeFrom(before.left)
      right.primeFrom(before.right)
    } else {
      left.prime(now.left)
      right.prime(now.right)
    }
  }
}
