import { FRACTION } from './fraction'
import { poleFor } from './math'

/** Frames between two hits at the least, in seconds. */
const APART = 0.05

/**
 * Finds where a sound is struck: the fast level rises well over the slow one and over a floor (Bello et al.,
 * "A tutorial on onset detection in music signals", 2005, sec. III: ratio of two energy envelopes). Fed
 * sample by sample.
 */
export class Onset {
  private fast = FRACTION
  private slow = FRACTION
  private rest = FRACTION
  private readonly fastUp: number
  private readonly fastDown: number
  private readonly slowPole: number
  private readonly apart: number

  constructor(sampleRate: number) {
    this.fastUp = poleFor(0.0006, sampleRate)
    this.fastDown = poleFor(0.015, sampleRate)
    this.slowPole = poleFor(0.06, sampleRate)
    this.apart = APART * sampleRate
  }

  reset(): void {
    this.fast = this.slow = this.rest = 0
  }

  /**
   * Hears what came before, so that it knows how loud that was; none of its hits keeps one from being found
   * right after.
   */
  hearBefore(levels: Float64Array, floor: number, marks: Uint8Array): void {
    this.mark(levels, floor, marks)
    this.rest = 0
  }

  /** Marks hits with 1 in a block of rectified levels. `floor` is the least level that counts. */
  mark(levels: Float64Array, floor: number, marks: Uint8Array): void {
    let { fast, slow, rest } = this
    const { fastUp, fastDown, slowPole } = this
    for (let i = 0; i < levels.length; i++) {
      const x = levels[i]
      fast = x + (x > fast ? fastUp : fastDown) * (fast - x)
      if (rest > 0) rest--
      const hit = rest === 0 && fast > floor && fast > 2 * slow
      if (hit) rest = this.apart
      marks[i] = hit ? 1 : 0
      slow = fast + slowPole * (slow - fast)
    }
    this.fast = fast < 1e-15 ? 0 : fast
    this.slow = slow < 1e-15 ? 0 : slow
    this.rest = rest
  }
}
