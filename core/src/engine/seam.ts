import { FRACTION } from '../dsp/fraction'
import { BLOCK, type StereoBlock, stereoBlock } from './block'

/** Frames over which a seam heals: long enough that the healing adds less than −60 dBFS from one sample to the next. */
const HEALING = 4096

/** The same for a change of steepness, which fades exponentially: share that is left after one frame. */
const STEEPNESS_DECAY = 63 / 64

/**
 * Hides the step where a signal comes from another place than a block ago: the difference between where the wave was
 * heading and where it is now is added and fades out smoothly, in place and in steepness. No second copy of anything
 * has to run.
 */
export class Seam {
  readonly out: StereoBlock = stereoBlock()
  private left = 0
  private offsetL = FRACTION
  private offsetR = FRACTION
  private lastL = FRACTION
  private lastR = FRACTION
  private beforeL = FRACTION
  private beforeR = FRACTION
  private slopeL = FRACTION
  private slopeR = FRACTION
  private decay = FRACTION
  private pending = false

  /** Announces that the next block comes from elsewhere. */
  cut(): void { this.pending = true }

  reset(): void {
    this.left = 0
    this.lastL = this.lastR = this.beforeL = this.beforeR = 0
    this.pending = false
  }

  /** The block as it should be heard: `input` itself while there is nothing to heal. */
  process(input: StereoBlock): StereoBlock {
    let { left, right } = input
    let result = input
    if (this.pending) {
      this.pending = false
      this.offsetL = 2 * this.lastL - this.beforeL - left[0]
      this.offsetR = 2 * this.lastR - this.beforeR - right[0]
      this.slopeL = this.lastL - this.beforeL - (left[1] - left[0])
      this.slopeR = this.lastR - this.beforeR - (right[1] - right[0])
      this.decay = 1
      this.left = HEALING
    }
    if (this.left > 0) {
      const { out } = this
      const passed = HEALING - this.left
      let decay = this.decay
      for (let i = 0; i < BLOCK; i++) {
        const x = (this.left - i) / HEALING
        const w = x <= 0 ? 0 : x * x * (3 - 2 * x)
        const k = (passed + i) * decay
        decay *= STEEPNESS_DECAY
        out.left[i] = left[i] + this.offsetL * w + this.slopeL * k
        out.right[i] = right[i] + this.offsetR * w + this.slopeR * k
      }
      this.decay = decay
      this.left -= BLOCK
      left = out.left
      right = out.right
      result = out
    }
    this.lastL = left[BLOCK - 1]
    this.lastR = right[BLOCK - 1]
    this.beforeL = left[BLOCK - 2]
    this.beforeR = right[BLOCK - 2]
    return result
  }
}
