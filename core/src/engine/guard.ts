import { FRACTION } from '../dsp/fraction'
import { BLOCK, NOTHING, type StereoBlock } from '../contract/block'

/**
 * +36 dBFS: above this for {@link PATIENCE} seconds, more than its input explains, an effect has run away.
 */
const RUNAWAY = 63.0957344480193
const PATIENCE = 0.05
/** Input below this (−60 dBFS) for so many seconds releases a bypassed node. */
const QUIET_INPUT = 0.001
const RELEASE_AFTER = 1
/** 6 dB of room above the gain that a definition states. */
const ROOM = 1.9952623149688795

/**
 * Watches one effect's output: its peak for the meters, and whether it is still sane. A node that trips is
 * held cut until a person has seen it, or its input has been quiet for a second.
 */
export class Guard {
  /** Largest sample of the last block. */
  peak = FRACTION
  /** How often it has tripped. */
  trips = 0
  /** Whether the node is to stay cut. */
  held = false
  private loudFor = 0
  private quietFor = 0
  /** Largest input of late; falls by half in a few blocks. */
  private input = FRACTION
  private readonly patience: number
  private readonly releaseAfter: number

  constructor(sampleRate: number) {
    this.patience = PATIENCE * sampleRate
    this.releaseAfter = RELEASE_AFTER * sampleRate
  }

  reset(): void {
    this.peak = 0
    this.loudFor = this.quietFor = 0
    this.input = 0
    this.held = false
  }

  /** Whether the input matters now. */
  get isWatching(): boolean {
    return this.held || this.isLoud
  }

  /** Whether the last block was so loud that the stated gain of the effect matters. */
  get isLoud(): boolean {
    return this.peak > RUNAWAY
  }

  /** A person has seen that it tripped. */
  release(): void {
    this.held = false
  }

  /**
   * Takes the peak of the input of a block, while it {@link isWatching}; lets go of a held node once that has
   * been quiet for long enough.
   */
  hear(input: number): void {
    this.input = Math.max(input, this.input * 0.9)
    if (!this.held) return
    this.quietFor = input < QUIET_INPUT ? this.quietFor + BLOCK : 0
    if (this.quietFor >= this.releaseAfter) this.held = false
  }

  /**
   * True where the block is not finite, or the signal has run away: the effect must be cut and restarted.
   * @param gain largest gain that the effect is meant to give, linear
   */
  inspect(block: StereoBlock, gain: number): boolean {
    // as `settle` does, in the same pass
    const { left, right } = block
    let peak = 0
    let check = 0
    for (let i = 0; i < BLOCK; i++) {
      const l = left[i] < 0 ? -left[i] : left[i]
      const r = right[i] < 0 ? -right[i] : right[i]
      if (l < NOTHING) left[i] = 0
      if (r < NOTHING) right[i] = 0
      if (l > peak) peak = l
      if (r > peak) peak = r
      // not-a-number is larger than nothing, so it only shows in a sum
      check += l + r
    }
    this.peak = peak
    this.loudFor = peak > RUNAWAY && peak > this.input * gain * ROOM ? this.loudFor + BLOCK : 0
    if (check - check === 0 && this.loudFor <= this.patience) return false
    this.trip()
    return true
  }

  /** Cuts it, until it is let go. */
  trip(): void {
    this.trips++
    this.loudFor = this.quietFor = 0
    this.peak = 0
    this.held = true
  }
}
