import { Convolver, Kernel } from './convolution'
import { PI, cosCycles, sinCycles } from './math'

const TAPS = 2047
/** Samples by which every band comes later. */
export const LINEAR_BAND_LATENCY = (TAPS - 1) / 2
/** Blocks between two designs while a corner moves. */
const BLOCKS_APART = 2

/**
 * Blackman's window over a half of the taps, divided by πn: what turns a sine into a low-pass (Harris, "On
 * the use of windows", Proc. IEEE 1978).
 */
const weights = new Float64Array(LINEAR_BAND_LATENCY + 1)
for (let n = 1; n <= LINEAR_BAND_LATENCY; n++) {
  const t = 0.5 + (0.5 * n) / (LINEAR_BAND_LATENCY + 1)
  weights[n] = (0.42 - 0.5 * cosCycles(t) + 0.08 * cosCycles(2 * t)) / (PI * n)
}

/**
 * What lies between two corners, in linear phase: the difference of two windowed-sinc low-passes.
 * Neighbouring bands share their corners, so that all of them together are a pure delay whatever the corners
 * are. Stereo, in place.
 */
export class LinearBand {
  private readonly taps = new Float32Array(TAPS)
  private readonly kernel = new Kernel(this.taps, this.taps)
  private readonly convolver = new Convolver(this.kernel)
  private low = NaN
  private high = NaN
  private wait = 0

  reset(): void {
    this.convolver.reset()
    this.low = NaN
    this.wait = 0
  }

  /** @param low lower corner in Hz, 0 for none @param high upper corner in Hz, Infinity for none */
  process(left: Float32Array, right: Float32Array, low: number, high: number, sampleRate: number): void {
    if ((low !== this.low || high !== this.high) && --this.wait < 0) {
      this.low = low
      this.high = high
      this.wait = BLOCKS_APART - 1
      this.taps.fill(0)
      if (high < 0.5 * sampleRate) this.add(1, high / sampleRate)
      else this.taps[LINEAR_BAND_LATENCY] = 1
      if (low > 0) this.add(-1, low / sampleRate)
      this.kernel.restart()
    }
    this.convolver.process(left, right, left, right)
  }

  /**
   * Adds a low-pass with its corner at a share of the sample rate. Sines by recurrence: sin(n+1) =
   * 2·cos·sin(n) − sin(n−1).
   */
  private add(sign: number, corner: number): void {
    const { taps } = this
    const middle = LINEAR_BAND_LATENCY
    taps[middle] += sign * 2 * corner
    const turn = 2 * cosCycles(corner)
    let before = 0
    let now = sinCycles(corner)
    for (let n = 1; n <= middle; n++) {
      const h = sign * now * weights[n]
      taps[middle + n] += h
      taps[middle - n] += h
      const next = turn * now - before
      before = now
      now = next
    }
  }
}
