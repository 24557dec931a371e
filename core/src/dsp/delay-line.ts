import { SINC_PHASES, SINC_TAPS, sincTable } from './sinc-table'

/** The least delay, in samples, that {@link DelayLine.read} can give before the newest sample is written. */
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

  write(x: number): void {
    this.ring[this.head] = x
    this.head = (this.head + 1) & this.mask
  }

  /** The sample `delay` whole samples before the one about to be written (1 is the newest). */
  at(delay: number): number {
    return this.ring[(this.head - delay) & this.mask]
  }

  /** The signal `delay` samples ago, at any fraction, by an 8-tap windowed sinc. `delay` ≥ 4. */
  read(delay: number): number {
    const whole = Math.floor(delay)
    const row = ((1 - (delay - whole)) * SINC_PHASES + 0.5 | 0) * SINC_TAPS
    const ring = this.ring
    const mask = this.mask
    const i = this.head - whole - 4
    // weights come in rows of eight, so the row's end is inside the table whenever its start is
    return sincTable[row] * ring[i & mask] + sincTable[row + 1] * ring[(i + 1) & mask]
      + sincTable[row + 2] * ring[(i + 2) & mask] + sincTable[row + 3] * ring[(i + 3) & mask]
      + sincTable[row + 4] * ring[(i + 4) & mask] + sincTable[row + 5] * ring[(i + 5) & mask]
      + sincTable[row + 6] * ring[(i + 6) & mask] + sincTable[row + 7] * ring[(i + 7) & mask]
  }
}
