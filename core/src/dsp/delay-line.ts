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
    this.ring = new Float32Array(size)
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
      ring[head] = x[i]
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
    for (let i = start; i < end; i++) {
      const delay = delays[i]
      const whole = Math.floor(delay)
      const row = ((1 - (delay - whole)) * SINC_PHASES + 0.5 | 0) * SINC_TAPS
      const j = head + (i - start) - whole - 4
      out[i] = sincTable[row] * ring[j & mask] + sincTable[row + 1] * ring[(j + 1) & mask]
        + sincTable[row + 2] * ring[(j + 2) & mask] + sincTable[row + 3] * ring[(j + 3) & mask]
        + sincTable[row + 4] * ring[(j + 4) & mask] + sincTable[row + 5] * ring[(j + 5) & mask]
        + sincTable[row + 6] * ring[(j + 6) & mask] + sincTable[row + 7] * ring[(j + 7) & mask]
    }
  }
}
