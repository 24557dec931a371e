import { Resampler } from './resample'

/** Frames that a stream holds: the kernel's reach at eight times the rate, and blocks of both sides. */
const HELD = 1 << 13

/**
 * Converts one channel to another sample rate while it comes, in pieces of any size; the same samples as
 * {@link Resampler} gives of the whole. Allocates nothing once each phase of the ratio has been met.
 */
export class RateStream {
  private readonly ring = new Float32Array(HELD)
  private readonly resampler: Resampler
  private readonly pad: number
  /** Frames of input and output so far. */
  private came = 0
  private gone = 0

  /**
   * @param ahead frames of silence that come first, so that the requested frames exist though the input is
   * late
   */
  constructor(
    private readonly from: number,
    private readonly to: number,
    ahead = 0,
  ) {
    this.resampler = new Resampler(from, to)
    const [first, end] = this.resampler.reach(0, 1)
    this.pad = Math.max(-first, end)
    this.came = ahead
  }

  /** Seconds that it looks ahead. */
  get latency(): number {
    return this.from === this.to ? 0 : this.pad / this.from
  }

  /** Whether so many more frames are available. */
  has(frames: number): boolean {
    return this.came >= this.endOf(this.gone + frames - 1)
  }

  push(x: Float32Array): void {
    const { ring } = this
    for (let i = 0; i < x.length; i++) ring[(this.came + i) % HELD] = x[i] as number
    this.came += x.length
  }

  /** Fills `out`; only where {@link has} says so. */
  pull(out: Float32Array): void {
    const { ring, from, to, resampler } = this
    for (let k = 0; k < out.length; k++) {
      const i = this.gone + k
      const { first, weights } = resampler.kernel(i)
      const base = Math.floor((i * from) / to) + first
      let y = 0
      for (let j = base < 0 ? -base : 0; j < weights.length; j++)
        y += (weights[j] as number) * (ring[(base + j) % HELD] as number)
      out[k] = y
    }
    this.gone += out.length
  }

  /** Frame of the input behind the last that frame `i` of the output is made from. */
  private endOf(i: number): number {
    return Math.floor((i * this.from) / this.to) + (this.from === this.to ? 1 : this.pad)
  }
}
