import { sinCycles, cosCycles, atan, PI } from './math'
import { loopStringsBytes } from './simd/loop-strings.wasm'
import { KernelMemory, SimdKernel } from './simd/kernel-memory'
import { SINC_PHASES, SINC_TAPS, sincTable } from './sinc-table'

interface KernelExports {
  run(
    x: number,
    y: number,
    hz: number,
    feedback: number,
    weights: number,
    ring: number,
    mask: number,
    head: number,
    table: number,
    lows: number,
    lost: number,
    step: number,
    sampleRate: number,
    frames: number,
  ): void
}
const kernel = new SimdKernel<KernelExports>(loopStringsBytes)

/**
 * Two delay loops, left and right, tuned to one frequency: input plus what comes round again, through a
 * one-pole low-pass (damping) and a soft limit that only works near and above full scale. The delay is
 * shortened by the phase delay of the low-pass at the tuned frequency, so the pitch stays right whatever the
 * damping. Read by an 8-tap windowed sinc.
 */
export class LoopStrings {
  /** Input: left and right of each frame. */
  readonly x: Float64Array
  /** Output, the same. */
  readonly y: Float64Array
  /** Of each frame: frequency in Hz, feedback, and weight of the low-pass in the loop, 1 for none. */
  readonly hz: Float64Array
  readonly feedback: Float64Array
  readonly weights: Float64Array
  private readonly ring: Float64Array
  private readonly mask: number
  private readonly table: Float64Array
  /** State of the low-pass of both sides. */
  private readonly lows: Float64Array
  private readonly memory: KernelMemory<KernelExports>
  private head = 0
  /**
   * Frequency and weight that the delay of the low-pass was worked out for; that delay now, whether it has
   * one, and where it goes.
   */
  private readonly state = new Float64Array(5)

  /** @param lowest Hz that they can be tuned to @param frames of a block */
  constructor(
    lowest: number,
    private readonly sampleRate: number,
    private readonly frames: number,
  ) {
    let size = 64
    while (size < (2 * sampleRate) / lowest + SINC_TAPS) size *= 2
    this.mask = size - 1
    // the first taps are repeated behind the end, so that a reading never has to wrap
    const memory = (this.memory = new KernelMemory(kernel, 8 * (2 * (size + SINC_TAPS) + 7 * frames + 16)))
    this.x = memory.doubles(2 * frames)
    this.y = memory.doubles(2 * frames)
    this.hz = memory.doubles(frames)
    this.feedback = memory.doubles(frames)
    this.weights = memory.doubles(frames)
    this.lows = memory.doubles(2)
    this.ring = memory.doubles(2 * (size + SINC_TAPS))
    this.table = memory.table(sincTable)
  }

  reset(): void {
    this.ring.fill(0)
    this.lows.fill(0)
    this.state.fill(0)
    this.head = 0
  }

  process(): void {
    const { x, y, hz, feedback, weights, ring, mask, head, table, lows, state, sampleRate, frames } = this
    const last = frames - 1
    // what the low-pass delays goes straight from block to block; the period itself is followed sample by
    // sample
    if (state[0] !== hz[last] || state[1] !== weights[last]) {
      state[0] = hz[last]
      state[1] = weights[last]
      const wanted = lowPassDelay(weights[last], hz[last] / sampleRate)
      if (state[3] === 0) state[2] = wanted
      state[4] = wanted
    }
    state[3] = 1
    const lost = state[2]
    const step = (state[4] - lost) / frames
    const { simd } = this.memory
    if (simd)
      simd.run(
        x.byteOffset,
        y.byteOffset,
        hz.byteOffset,
        feedback.byteOffset,
        weights.byteOffset,
        ring.byteOffset,
        mask,
        head,
        table.byteOffset,
        lows.byteOffset,
        lost,
        step,
        sampleRate,
        frames,
      )
    else for (let side = 0; side < 2; side++) this.run(side, lost, step)
    for (let side = 0; side < 2; side++) if (lows[side] < 1e-18 && lows[side] > -1e-18) lows[side] = 0
    this.head = (head + frames) & mask
    state[2] = state[4]
  }

  /** One side; its kernel does both at once. */
  private run(side: number, lost: number, step: number): void {
    const { x, y, hz, feedback, weights, ring, mask, table, lows, sampleRate, frames } = this
    let { head } = this
    let low = lows[side]
    for (let i = 0; i < frames; i++) {
      lost += step
      // with the sign turned the loop closes after half a period: the note stays the same
      let back = sampleRate / hz[i]
      if (feedback[i] < 0) back *= 0.5
      back -= lost
      if (back < 8) back = 8
      const whole = Math.floor(back)
      const row = (((1 - (back - whole)) * SINC_PHASES + 0.5) | 0) * SINC_TAPS
      const j = 2 * ((head - whole - 4) & mask) + side
      const v =
        table[row] * ring[j] +
        table[row + 2] * ring[j + 4] +
        table[row + 4] * ring[j + 8] +
        table[row + 6] * ring[j + 12] +
        (table[row + 1] * ring[j + 2] +
          table[row + 3] * ring[j + 6] +
          table[row + 5] * ring[j + 10] +
          table[row + 7] * ring[j + 14])
      low += weights[i] * (v - low)
      let z = x[2 * i + side] + feedback[i] * low
      // linear up to about −3 dBFS, then ever softer: at full feedback the loop holds instead of growing
      if (z > 0.7) z = 0.7 + (z - 0.7) / (0.3 + z)
      else if (z < -0.7) z = -0.7 + (z + 0.7) / (0.3 - z)
      const kept = z > 1e-18 || z < -1e-18 ? z : 0
      ring[2 * head + side] = kept
      if (head < SINC_TAPS) ring[2 * (mask + 1 + head) + side] = kept
      head = (head + 1) & mask
      y[2 * i + side] = z
    }
    lows[side] = low
  }
}

/** Phase delay in samples of y += w·(x − y) at `f` as a share of the sample rate. */
function lowPassDelay(w: number, f: number): number {
  const r = 1 - w
  if (r < 1e-9) return 0
  return atan((r * sinCycles(f)) / (1 - r * cosCycles(f))) / (2 * PI * f)
}
