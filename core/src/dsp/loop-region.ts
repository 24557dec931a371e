import { FRACTION } from './fraction'
import { SINC_PHASES, SINC_TAPS, sincTable } from './sinc-table'

/** Shortest loop in frames. */
const SHORTEST = 64

/**
 * Which part of a sound plays: from a start, once, to an end, and from there on between a place that it goes back to and the end; or
 * all that turned round. Read between samples by an 8-tap windowed sinc that goes on over the seam, and as it is at whole frames.
 */
export class LoopRegion {
  private left: Float32Array = nothing
  private right: Float32Array = nothing
  private start = 0
  private back = 0
  private end = 0
  private reversed = false
  private begins = false
  /** Lengths of the fades at both ends of the part, in frames. */
  private fadeIn = FRACTION
  private fadeOut = FRACTION

  constructor() {
    this.fadeIn = this.fadeOut = 0
  }

  /** Takes a sound and its marks, as shares of its length. @param begins whether it is silent before its start, instead of having gone round before */
  set(
    channels: readonly Float32Array[],
    start: number,
    back: number,
    end: number,
    reversed: boolean,
    fadeIn: number,
    fadeOut: number,
    begins: boolean,
  ): void {
    this.left = channels[0]
    this.right = channels.length > 1 ? channels[1] : channels[0]
    const whole = this.left.length
    this.start = Math.floor(Math.min(start, 0.999) * whole)
    this.end = Math.max(this.start + SHORTEST, Math.floor(end * whole))
    // a place before the start is the start
    this.back = Math.min(Math.max(this.start, Math.floor(back * whole)), this.end - SHORTEST)
    this.reversed = reversed
    this.begins = begins
    this.fadeIn = fadeIn
    this.fadeOut = fadeOut
  }

  /** Frames of one round. */
  get length(): number {
    return this.end - this.back
  }
  /** Whether each round is the same, forwards and without fades: frames of it can be copied. */
  get isPlain(): boolean {
    return this.back === this.start && !this.reversed && this.fadeIn === 0 && this.fadeOut === 0
  }
  get from(): number {
    return this.back
  }

  /** Place in the sound, so many frames after its start. */
  placeOf(passed: number): number {
    const intro = this.back - this.start
    if (passed < intro && passed >= 0) return this.start + passed
    const { length } = this
    const x = passed - intro
    return this.back + x - Math.floor(x / length) * length
  }

  /** Both sides, so many frames after the start. */
  read(passed: number, into: Float64Array): void {
    const { left, right, back, end, start } = this
    const whole = left.length
    if (passed < 0 && this.begins) {
      into[0] = into[1] = 0
      return
    }
    const forward = this.placeOf(passed)
    const place = this.reversed ? start + end - 1 - forward : forward
    const n = Math.floor(place)
    const fraction = place - n
    let l = 0
    let r = 0
    if (fraction === 0) {
      if (n >= 0 && n < whole) {
        l = left[n]
        r = right[n]
      }
    } else {
      const { length } = this
      // the first time round, what lies before is what was heard; later it is the end
      const goesRound = passed >= length + back - start || back === start
      const low = this.reversed ? start : back
      const high = this.reversed ? start + length : end
      const row = ((fraction * SINC_PHASES + 0.5) | 0) * SINC_TAPS
      for (let k = 0; k < SINC_TAPS; k++) {
        let j = n + k - 3
        if (j >= high) j -= length
        else if (j < low && goesRound) j += length
        if (j >= 0 && j < whole) {
          l += sincTable[row + k] * left[j]
          r += sincTable[row + k] * right[j]
        }
      }
    }
    if (this.fadeIn > 0 || this.fadeOut > 0) {
      const g = Math.min(1, this.fadeIn > 0 ? (forward - back + 1) / this.fadeIn : 1, this.fadeOut > 0 ? (end - forward) / this.fadeOut : 1)
      // the intro has no seam to fade from
      const w = passed < back - start ? Math.min(1, this.fadeIn > 0 ? (passed + 1) / this.fadeIn : 1) : Math.max(0, g)
      l *= w
      r *= w
    }
    into[0] = l
    into[1] = r
  }
}

const nothing = new Float32Array(0)
