import { tanPi } from './math'

/**
 * Bell filter as a state-variable filter (Zavalishin, The Art of VA Filter Design, 2012, ch. 5), stable while its
 * frequency moves at audio rate. Stereo, in place.
 */
export class Bell {
  private readonly state = new Float64Array(4)
  private readonly k: number
  private readonly m: number

  /** @param gain linear gain at the centre */
  constructor(private readonly sampleRate: number, q: number, gain: number) {
    const a = Math.sqrt(gain)
    this.k = 1 / (q * a)
    this.m = this.k * (a * a - 1)
  }

  reset(): void { this.state.fill(0) }

  /** `hz` holds a centre frequency for each frame. */
  process(left: Float64Array, right: Float64Array, hz: Float64Array): void {
    const { state, k, m, sampleRate } = this
    let l1 = state[0], l2 = state[1], r1 = state[2], r2 = state[3]
    const scale = 1 / sampleRate
    for (let i = 0; i < left.length; i++) {
      const g = tanPi(hz[i] * scale)
      const a1 = 1 / (1 + g * (g + k))
      const x = left[i]
      const y = right[i]
      const lv = a1 * (l1 + g * (x - l2))
      const rv = a1 * (r1 + g * (y - r2))
      l1 = 2 * lv - l1
      l2 += 2 * g * lv
      r1 = 2 * rv - r1
      r2 += 2 * g * rv
      left[i] = x + m * lv
      right[i] = y + m * rv
    }
    state[0] = l1
    state[1] = l2
    state[2] = r1
    state[3] = r2
  }
}
