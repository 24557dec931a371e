import { PAST, continuation } from '../dsp/continuation'
import { FRACTION } from '../dsp/fraction'
import { pow } from '../dsp/math'
import { BLOCK, type StereoBlock, settle, stereoBlock } from '../contract/block'
import { smallFloats } from '../contract/small-arrays'

/**
 * Frames over which a declick heals: long enough that the healing adds less than −60 dBFS from one sample to
 * the next.
 */
const HEALING = 4096

/** The same for a change of steepness, which fades exponentially: share that is left after one frame. */
const STEEPNESS_DECAY = 63 / 64

/** The remaining difference after a block. */
const BLOCK_DECAY = pow(STEEPNESS_DECAY, BLOCK)

const MIDDLE = (BLOCK - 1) / 2
/** Sum of the squares of the distances of a block's frames from its middle. */
const SPREAD = (BLOCK * (BLOCK * BLOCK - 1)) / 12

// one side is healed after the other
const past = new Float64Array(PAST)
const expected = new Float64Array(BLOCK)

/** One side of a declick: what was heard last, and what is still to be healed. */
class Side {
  private readonly heard = smallFloats(PAST)
  /** Where the older half of `heard` lies. */
  private older = 0
  private offset = FRACTION
  private slope = FRACTION

  reset(): void {
    this.heard.fill(0)
  }

  keep(block: Float32Array): void {
    this.heard.set(block, this.older)
    this.older = BLOCK - this.older
  }

  /**
   * Joins a block to what was heard. The way on from there is told by linear prediction. Where the block
   * differs from it by a line, that is left to be healed slowly; the rest of the difference, in which the
   * waves of both are, fades within the block.
   */
  join(x: Float32Array, y: Float32Array): void {
    const { heard, older } = this
    for (let i = 0; i < BLOCK; i++) {
      past[i] = heard[older + i]
      past[BLOCK + i] = heard[BLOCK - older + i]
    }
    continuation(past, expected)
    let sum = 0
    let moment = 0
    for (let i = 0; i < BLOCK; i++) {
      const d = expected[i] - x[i]
      expected[i] = d
      sum += d
      moment += d * (i - MIDDLE)
    }
    const slope = moment / SPREAD
    const offset = sum / BLOCK - slope * MIDDLE
    this.slope = slope
    this.offset = offset
    for (let i = 0; i < BLOCK; i++) {
      const left = 1 - i / BLOCK
      y[i] = x[i] + (expected[i] - offset - slope * i) * left * left * (3 - 2 * left)
    }
  }

  /** Goes on for a block as what was heard would have, whatever comes. */
  goOn(y: Float32Array): void {
    const { heard, older } = this
    for (let i = 0; i < BLOCK; i++) {
      past[i] = heard[older + i]
      past[BLOCK + i] = heard[BLOCK - older + i]
    }
    continuation(past, expected)
    for (let i = 0; i < BLOCK; i++) y[i] = expected[i]
  }

  /** Adds the rest of the correction, so many frames after the declick. */
  heal(x: Float32Array, y: Float32Array, passed: number, decay: number): void {
    const { offset, slope } = this
    for (let i = 0; i < BLOCK; i++) {
      const t = Math.max(0, HEALING - passed - i) / HEALING
      y[i] = x[i] + offset * t * t * (3 - 2 * t) + slope * (passed + i) * decay
      decay *= STEEPNESS_DECAY
    }
  }
}

/**
 * Hides the step where a signal comes from another place than a block ago: what was heard goes on as it would
 * have, and turns into what comes now. No second copy of anything has to run.
 */
export class Declick {
  readonly out: StereoBlock = stereoBlock()
  private readonly left = new Side()
  private readonly right = new Side()
  /** Frames since the declick that heals; {@link HEALING} for none. */
  private passed = HEALING
  private decay = FRACTION
  private pending = false
  /** Blocks that are bridged before the join. */
  private bridged = 0

  /**
   * Announces that the next block comes from elsewhere, or one within so many samples: until then what was
   * heard goes on as it would have, so that a jump that comes late, inside a block, is not heard either.
   */
  cut(within = 0): void {
    this.bridged = Math.max(this.bridged, Math.ceil(within / BLOCK))
    this.pending = true
  }

  reset(): void {
    this.passed = HEALING
    this.left.reset()
    this.right.reset()
    this.pending = false
    this.bridged = 0
  }

  /** The block as it should be heard: `input` itself while there is nothing to heal. */
  process(input: StereoBlock): StereoBlock {
    const { out, left, right } = this
    let result = input
    if (this.bridged > 0) {
      this.bridged--
      left.goOn(out.left)
      right.goOn(out.right)
      this.passed = HEALING
      result = out
    } else if (this.pending) {
      this.pending = false
      left.join(input.left, out.left)
      right.join(input.right, out.right)
      this.passed = 0
      this.decay = 1
      result = out
    }
    if (this.passed < HEALING) {
      left.heal(result.left, out.left, this.passed, this.decay)
      right.heal(result.right, out.right, this.passed, this.decay)
      this.passed += BLOCK
      this.decay *= BLOCK_DECAY
      result = out
    }
    if (result === out) settle(out)
    left.keep(result.left)
    right.keep(result.right)
    return result
  }
}
