import { sinCycles, cosCycles, atan, PI } from './math'
import { SINC_PHASES, SINC_TAPS, sincTable } from './sinc-table'

/**
 * One delay loop tuned to a frequency: input plus what comes round again, through a one-pole low-pass
 * (damping) and a soft limit that only works near and above full scale. The delay is shortened by the phase
 * delay of the low-pass at the tuned frequency, so the pitch stays right whatever the damping. Read by an
 * 8-tap windowed sinc. One channel.
 */
export class LoopString {
  private readonly ring: Float64Array
  private readonly mask: number
  private head = 0
  /**
   * State of the low-pass; frequency and weight that its delay was worked out for; that delay now, whether it
   * has one, and where it goes.
   */
  private readonly state = new Float64Array(6)

  /** @param lowest Hz that it can be tuned to */
  constructor(
    lowest: number,
    private readonly sampleRate: number,
  ) {
    let size = 64
    while (size < (2 * sampleRate) / lowest + SINC_TAPS) size *= 2
    this.ring = new Float64Array(size)
    this.mask = size - 1
  }

  reset(): void {
    this.ring.fill(0)
    this.state.fill(0)
    this.head = 0
  }

  /** @param weights of the low-pass in the loop, 1 for none; @param hz and feedback for each frame */
  process(
    x: Float32Array,
    y: Float64Array,
    hz: Float64Array,
    feedback: Float64Array,
    weights: Float64Array,
  ): void {
    const { ring, mask, state, sampleRate } = this
    let head = this.head
    let low = state[0],
      lost = state[3]
    const last = y.length - 1
    // what the low-pass delays goes straight from block to block; the period itself is followed sample by
    // sample
    if (state[1] !== hz[last] || state[2] !== weights[last]) {
      state[1] = hz[last]
      state[2] = weights[last]
      const wanted = lowPassDelay(weights[last], hz[last] / sampleRate)
      if (state[4] === 0) lost = wanted
      state[5] = wanted
    }
    state[4] = 1
    const step = (state[5] - lost) / y.length
    for (let i = 0; i < y.length; i++) {
      const w = weights[i]
      lost += step
      // with the sign turned the loop closes after half a period: the note stays the same
      let back = sampleRate / hz[i]
      if (feedback[i] < 0) back *= 0.5
      back -= lost
      if (back < 8) back = 8
      const whole = Math.floor(back)
      const row = (((1 - (back - whole)) * SINC_PHASES + 0.5) | 0) * SINC_TAPS
      const j = head - whole - 4
      const v =
        sincTable[row] * ring[j & mask] +
        sincTable[row + 1] * ring[(j + 1) & mask] +
        sincTable[row + 2] * ring[(j + 2) & mask] +
        sincTable[row + 3] * ring[(j + 3) & mask] +
        sincTable[row + 4] * ring[(j + 4) & mask] +
        sincTable[row + 5] * ring[(j + 5) & mask] +
        sincTable[row + 6] * ring[(j + 6) & mask] +
        sincTable[row + 7] * ring[(j + 7) & mask]
      low += w * (v - low)
      let z = x[i] + feedback[i] * low
      // linear up to about −3 dBFS, then ever softer: at full feedback the loop holds instead of growing
      if (z > 0.7) z = 0.7 + (z - 0.7) / (0.3 + z)
      else if (z < -0.7) z = -0.7 + (z + 0.7) / (0.3 - z)
      ring[head] = z > 1e-18 || z < -1e-18 ? z : 0
      head = (head + 1) & mask
      y[i] = z
    }
    this.head = head
    state[0] = low > 1e-18 || low < -1e-18 ? low : 0
    state[3] = state[5]
  }
}

/** Phase delay in samples of y += w·(x − y) at `f` as a share of the sample rate. */
function lowPassDelay(w: number, f: number): number {
  const r = 1 - w
  if (r < 1e-9) return 0
  return atan((r * sinCycles(f)) / (1 - r * cosCycles(f))) / (2 * PI * f)
}
