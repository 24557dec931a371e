import { Decimator, EvenDecimator, Interpolator, designHalfBand } from './half-band'

/** Rates a shaper can run at. `raw` neither oversamples nor uses antiderivatives. */
export type ShaperRate = 1 | 2 | 4 | 8

// Lengths follow from what each stage must keep (to 20 kHz) and reject (what would fold back below 20 kHz), by Kaiser's
// formula: 85 dB for 2 × and 4 ×, 100 dB for the best.
const FIRST = designHalfBand(16, 8.4)
const SECOND = designHalfBand(5, 8.4)
const FIRST_BEST = designHalfBand(20, 9.6)
const SECOND_BEST = designHalfBand(7, 9.6)
const THIRD_BEST = designHalfBand(5, 9.6)

/** Latency in samples of every rate, the naive one included: shorter ways are padded to the longest. */
export const OVERSAMPLER_LATENCY = 48

/**
 * Runs a first-order antiderivative shaper at 2, 4 or 8 times the rate, between linear-phase half-band stages.
 * The last stage down has even length, so the half sample that the antiderivative adds becomes whole, and what is
 * left is padded: input to output is always {@link OVERSAMPLER_LATENCY} samples. One channel.
 */
export class Oversampler {
  private readonly up: Interpolator[]
  private readonly down: Decimator
  private readonly lastDown: EvenDecimator[]
  private readonly bestUp: Interpolator[]
  private readonly bestDown: Decimator[]
  private readonly bestLastDown: EvenDecimator
  private readonly buffers: Float64Array[]
  private readonly pad: Float64Array
  private padHead = 0

  constructor(private readonly frames: number) {
    this.up = [new Interpolator(FIRST, frames), new Interpolator(SECOND, 2 * frames)]
    this.down = new Decimator(FIRST, frames)
    this.lastDown = [new EvenDecimator(33, 8.4, frames), new EvenDecimator(11, 8.4, 2 * frames)]
    this.bestUp = [new Interpolator(FIRST_BEST, frames), new Interpolator(SECOND_BEST, 2 * frames), new Interpolator(THIRD_BEST, 4 * frames)]
    this.bestDown = [new Decimator(FIRST_BEST, frames), new Decimator(SECOND_BEST, 2 * frames)]
    this.bestLastDown = new EvenDecimator(11, 9.6, 4 * frames)
    this.buffers = [1, 2, 4, 8].map((rate) => new Float64Array(rate * frames))
    this.pad = new Float64Array(64)
  }

  reset(): void {
    for (const stage of [...this.up, this.down, ...this.lastDown, ...this.bestUp, ...this.bestDown, this.bestLastDown]) stage.reset()
    this.pad.fill(0)
    this.padHead = 0
  }

  /** Buffer to write `frames` input samples to before {@link raise}, and to read output from after {@link lower}. */
  get base(): Float64Array { return this.buffers[0] }

  /** Takes the base buffer up; returns rate·frames samples to be shaped in place. */
  raise(rate: ShaperRate): Float64Array {
    const { up, buffers, frames } = this
    if (rate === 1) return buffers[0]
    if (rate === 8) {
      this.bestUp[0].process(buffers[0], buffers[1], frames)
      this.bestUp[1].process(buffers[1], buffers[2], 2 * frames)
      this.bestUp[2].process(buffers[2], buffers[3], 4 * frames)
      return buffers[3]
    }
    up[0].process(buffers[0], buffers[1], frames)
    if (rate === 2) return buffers[1]
    up[1].process(buffers[1], buffers[2], 2 * frames)
    return buffers[2]
  }

  /** Brings the shaped samples back down into the base buffer, padded to the common latency. */
  lower(rate: ShaperRate): void {
    const { down, lastDown, buffers, frames } = this
    if (rate === 8) {
      this.bestLastDown.process(buffers[3], buffers[2], 4 * frames)
      this.bestDown[1].process(buffers[2], buffers[1], 2 * frames)
      this.bestDown[0].process(buffers[1], buffers[0], frames)
      return
    }
    if (rate === 4) {
      lastDown[1].process(buffers[2], buffers[1], 2 * frames)
      down.process(buffers[1], buffers[0], frames)
      this.delay(12)
    } else if (rate === 2) {
      lastDown[0].process(buffers[1], buffers[0], frames)
      this.delay(16)
    } else this.delay(48)
  }

  private delay(samples: number): void {
    const { pad, frames } = this
    const base = this.buffers[0]
    let head = this.padHead
    for (let i = 0; i < frames; i++) {
      pad[head] = base[i]
      base[i] = pad[(head - samples) & 63]
      head = (head + 1) & 63
    }
    this.padHead = head
  }
}
