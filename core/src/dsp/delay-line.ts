import { SINC_PHASES, SINC_TAPS, sincTable } from './sinc-table'

/** The least delay, in samples, that {@link DelayLine.readBlock} can give before the newest sample is written. */
export const LEAST_DELAY = SINC_TAPS / 2

/** A ring of past samples with band-limited reading between them. One channel. */
export class DelayLine {
  private readonly ring: Float32Array
  private readonly mask: number
  private head = 0

  /** @param frames the longest delay that will be asked for, in samples */
  constructor(frames: number) {
    let size = 16
    while (size < frames + SINC_TAPS) size *= 2
    // the first taps stand once more behind the end, so that a reading never has to go round
    this.ring = new Float32Array(size + SINC_TAPS)
    this.mask = size - 1
  }

  reset(): void {
    this.ring.fill(0)
    this.head = 0
  }

  /** Appends samples `start` to `end` of a block. */
  writeBlock(x: Float64Array, start: number, end: number): void {
    const { ring, mask } = this
    let head = this.head
    for (let i = start; i < end; i++) {
      const v = x[i]
      ring[head] = v
      if (head < SINC_TAPS) ring[head + mask + 1] = v
      head = (head + 1) & mask
    }
    this.head = head
  }

  /**
   * The signal `delays[i]` samples ago for each i from `start` to `end`, at any fraction, by an 8-tap windowed sinc, as
   * the write place moves along. Delays are at least {@link LEAST_DELAY} plus the samples between start and i that
   * are not written yet.
   */
  readBlock(delays: Float64Array, out: Float64Array, start: number, end: number): void {
    const { ring, mask, head } = this
    const table = sincTable
    for (let i = start; i < end; i++) {
      const delay = delays[i]
      const whole = Math.floor(delay)
      const row = ((1 - (delay - whole)) * SINC_PHASES + 0.5 | 0) * SINC_TAPS
      const j = (head + (i - start) - whole - 4) & mask
      // two sums that do not wait for each other
      out[i] = (table[row] * ring[j] + table[row + 1] * ring[j + 1] + table[row + 2] * ring[j + 2] + table[row + 3] * ring[j + 3])
        + (table[row + 4] * ring[j + 4] + table[row + 5] * ring[j + 5] + table[row + 6] * ring[j + 6] + table[row + 7] * ring[j + 7])
    }
  }

  /**
   * {@link readBlock} of two lines at the same delays, as of the two sides of a stereo signal: the weights are found once.
   * Both lines have been written equally often.
   */
  static readPair(left: DelayLine, right: DelayLine, delays: Float64Array, outL: Float64Array, outR: Float64Array, start: number, end: number): void {
    const { mask, head } = left
    const a = left.ring, b = right.ring
    const table = sincTable
    for (let i = start; i < end; i++) {
      const delay = delays[i]
      const whole = Math.floor(delay)
      const row = ((1 - (delay - whole)) * SINC_PHASES + 0.5 | 0) * SINC_TAPS
      const j = (head + (i - start) - whole - 4) & mask
      const w0 = table[row], w1 = table[row + 1], w2 = table[row + 2], w3 = table[row + 3]
      const w4 = table[row + 4], w5 = table[row + 5], w6 = table[row + 6], w7 = table[row + 7]
      outL[i] = (w0 * a[j] + w1 * a[j + 1] + w2 * a[j + 2] + w3 * a[j + 3]) + (w4 * a[j + 4] + w5 * a[j + 5] + w6 * a[j + 6] + w7 * a[j + 7])
      outR[i] = (w0 * b[j] + w1 * b[j + 1] + w2 * b[j + 2] + w3 * b[j + 3]) + (w4 * b[j + 4] + w5 * b[j + 5] + w6 * b[j + 6] + w7 * b[j + 7])
    }
  }
}
