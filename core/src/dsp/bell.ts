import { tangents } from './tangents'

/**
 * Bell filter as a state-variable filter (Zavalishin, The Art of VA Filter Design, 2012, ch. 5), stable while its
 * frequency moves at audio rate. Stereo, in place.
 */
export class Bell {
  private readonly state = new Float64Array(4)
  private readonly gains: Float64Array
  private readonly k: number
  private readonly m: number

  /** @param gain linear gain at the centre @param frames length of a block */
  constructor(private readonly sampleRate: number, q: number, gain: number, frames: number) {
    this.gains = new Float64Array(frames)
    const a = Math.sqrt(gain)
    this.k = 1 / (q * a)
    this.m = this.k * (a * a - 1)
  }

  reset(): void { this.state.fill(0) }

  /** `hz` holds a centre frequency for each frame of a block. */
  process(left: Float64Array, right: Float64Array, hz: Float64Array): void {
    const { state, k, gains } = this
    const m = 0.5 * this.m
    let l1 = state[0], l2 = state[1], r1 = state[2], r2 = state[3]
    tangents(hz, 1 / this.sampleRate, gains)
    for (let i = 0; i < left.length; i++) {
      const g = gains[i]
      // solved for the next state, since the loop waits for that; the band output is the mean of both
      const a1 = 2 / (1 + g * (g + k))
      const a2 = g * a1
      const a3 = g * a2
      const x = left[i]
      const y = right[i]
      const lv = x - l2
      const rv = y - r2
      const ln1 = (a1 - 1) * l1 + a2 * lv
      const rn1 = (a1 - 1) * r1 + a2 * rv
      l2 += a2 * l1 + a3 * lv
      r2 += a2 * r1 + a3 * rv
      left[i] = x + m * (l1 + ln1)
      right[i] = y + m * (r1 + rn1)
      l1 = ln1
      r1 = rn1
    }
    state[0] = l1
    state[1] = l2
    state[2] = r1
    state[3] = r2
  }
}
