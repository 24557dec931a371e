import { shapeRound } from './antiderivative'
import { FirMemory } from './simd/fir-memory'
import { Decimator, EvenDecimator, Interpolator, designHalfBand } from './half-band'

/** Rates a shaper can run at. `raw` neither oversamples nor uses antiderivatives. */
export type ShaperRate = 1 | 2 | 4 | 8
/** The same in the order in which a quality parameter counts them. */
export const shaperRates: readonly ShaperRate[] = [1, 2, 4, 8]

// Lengths follow from what each stage must keep (to 20 kHz) and reject (what would fold back below 20 kHz), by Kaiser's
// formula for 110 dB and more.
const FIRST = designHalfBand(24, 11.5)
const SECOND = designHalfBand(8, 12)
const THIRD = designHalfBand(5, 12)

/** Latency in samples of every rate, the naive one included: shorter ways are padded to the longest. */
export const OVERSAMPLER_LATENCY = 57

/**
 * Runs a first-order antiderivative shaper at 2, 4 or 8 times the rate, between linear-phase half-band stages.
 * The last stage down has even length, so the half sample that the antiderivative adds becomes whole, and what is
 * left is padded: input to output is always {@link OVERSAMPLER_LATENCY} samples. One channel.
 */
export class Oversampler {
  private readonly up: Interpolator[]
  private readonly down: Decimator[]
  private readonly lastDown: EvenDecimator[]
  private readonly buffers: Float64Array[]
  private readonly pad: Float64Array
  private readonly memory: FirMemory
  /** Last input of the round curve, and its root. */
  private readonly last: Float64Array
  private padHead = 0

  constructor(private readonly frames: number) {
    const memory = this.memory = new FirMemory(64 * frames + 4096)
    this.up = [new Interpolator(FIRST, frames, memory), new Interpolator(SECOND, 2 * frames, memory), new Interpolator(THIRD, 4 * frames, memory)]
    this.down = [new Decimator(FIRST, frames, memory), new Decimator(SECOND, 2 * frames, memory)]
    this.lastDown = [new EvenDecimator(49, 11.5, frames, memory), new EvenDecimator(17, 12, 2 * frames, memory), new EvenDecimator(11, 12, 4 * frames, memory)]
    this.buffers = [1, 2, 4, 8].map((rate) => memory.array(rate * frames))
    this.last = memory.array(2)
    this.last[1] = 1
    this.pad = new Float64Array(64)
  }

  reset(): void {
    for (const stage of [...this.up, ...this.down, ...this.lastDown]) stage.reset()
    this.pad.fill(0)
    this.last[0] = 0
    this.last[1] = 1
    this.padHead = 0
  }

  /** Buffer to write `frames` input samples to before {@link raise}, and to read output from after {@link lower}. */
  get base(): Float64Array { return this.buffers[0] }

  /** Takes the base buffer up; returns rate·frames samples to be shaped in place. */
  raise(rate: ShaperRate): Float64Array {
    const { up, buffers, frames } = this
    if (rate === 1) return buffers[0]
    up[0].process(buffers[0], buffers[1], frames)
    if (rate === 2) return buffers[1]
    up[1].process(buffers[1], buffers[2], 2 * frames)
    if (rate === 4) return buffers[2]
    up[2].process(buffers[2], buffers[3], 4 * frames)
    return buffers[3]
  }

  /** The round curve over samples that {@link raise} gave, in place; by its SIMD twin where there is one. */
  shapeRound(samples: Float64Array): void {
    const { last } = this
    if (this.memory.twins) this.memory.twins.shapeRound(samples.byteOffset, samples.length, last.byteOffset)
    else last[0] = shapeRound(samples, last[0])
  }

  /** Brings the shaped samples back down into the base buffer, padded to the common latency. */
  lower(rate: ShaperRate): void {
    const { down, lastDown, buffers, frames } = this
    if (rate === 8) {
      lastDown[2].process(buffers[3], buffers[2], 4 * frames)
      down[1].process(buffers[2], buffers[1], 2 * frames)
      down[0].process(buffers[1], buffers[0], frames)
      return
    }
    if (rate === 4) {
      lastDown[1].process(buffers[2], buffers[1], 2 * frames)
      down[0].process(buffers[1], buffers[0], frames)
      this.delay(2)
    } else if (rate === 2) {
      lastDown[0].process(buffers[1], buffers[0], frames)
      this.delay(9)
    } else this.delay(57)
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
