import { tanPi } from './math'

const Q = 0.7071067811865476
const LOWEST = 1e-18

/** Output of a crossover section: below the corner, above it, or both with the phase of their sum. */
export type CrossoverPart = 'low' | 'high' | 'all'

/**
 * One side of a fourth-order Linkwitz–Riley crossover (Linkwitz, "Active crossover networks for noncoincident
 * drivers", JAES 1976): two Butterworth filters in series, as state-variable filters that stay stable while
 * the corner moves. Low and high together are an all-pass of second order, which `all` gives by itself.
 * Stereo, in place.
 */
export class Crossover {
  private readonly state = new Float64Array(8)

  reset(): void {
    this.state.fill(0)
  }

  /** @param part which side @param hz corner of each frame */
  process(
    left: Float32Array,
    right: Float32Array,
    part: CrossoverPart,
    hz: Float64Array,
    sampleRate: number,
  ): void {
    this.side(left, 0, part, hz, sampleRate)
    this.side(right, 4, part, hz, sampleRate)
  }

  private side(x: Float32Array, at: number, part: CrossoverPart, hz: Float64Array, sampleRate: number): void {
    const { state } = this
    let a1 = state[at],
      a2 = state[at + 1],
      b1 = state[at + 2],
      b2 = state[at + 3]
    const k = 1 / Q
    let g = 0
    let d = 0
    let known = -1
    for (let i = 0; i < x.length; i++) {
      if (hz[i] !== known) {
        known = hz[i]
        const f = known / sampleRate
        g = tanPi(f > 0.49 ? 0.49 : f)
        d = 1 / (1 + g * (g + k))
      }
      const v0 = x[i]
      const v1 = d * (a1 + g * (v0 - a2))
      const v2 = a2 + g * v1
      a1 = 2 * v1 - a1
      a2 = 2 * v2 - a2
      if (part === 'all') {
        x[i] = v0 - 2 * k * v1
        continue
      }
      const y0 = part === 'low' ? v2 : v0 - k * v1 - v2
      const y1 = d * (b1 + g * (y0 - b2))
      const y2 = b2 + g * y1
      b1 = 2 * y1 - b1
      b2 = 2 * y2 - b2
      x[i] = part === 'low' ? y2 : y0 - k * y1 - y2
    }
    state[at] = quiet(a1)
    state[at + 1] = quiet(a2)
    state[at + 2] = quiet(b1)
    state[at + 3] = quiet(b2)
  }
}

const quiet = (v: number): number => (v > LOWEST || v < -LOWEST ? v : 0)
