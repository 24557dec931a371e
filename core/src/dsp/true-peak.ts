import { FRACTION } from './fraction'
import { type HalfBandDesign, Interpolator, designHalfBand } from './half-band'
import { halfBandKernel, type HalfBandExports } from './simd/half-band-kernel'
import { KernelMemory } from './simd/kernel-memory'

/**
 * Stages from the rate of the signal to eight times that. The first has the 64 taps of a Kaiser window with β
 * = 9; behind it the signal fills at most half, then a quarter of the band, so that few taps do as well.
 */
const stages: readonly HalfBandDesign[] = [designHalfBand(32, 9), designHalfBand(5, 9), designHalfBand(4, 9)]

/**
 * Samples from a frame to the interval whose peak is found with it: between the sample this long ago and the
 * one after.
 */
export const TRUE_PEAK_DELAY = 34

/** Samples that a value found depends on. */
const REACH = 80

/**
 * No value is larger than this times the largest sample that it depends on: product of the stages' sums of
 * magnitudes.
 */
const MOST_GAIN = stages.reduce(
  (gain, { taps }) => gain * Math.max(1, 2 * taps.reduce((sum, t) => sum + Math.abs(t), 0)),
  1,
)

/**
 * Peaks of a signal between its samples too, by interpolation to eight times its rate (ITU-R BS.1770-4, annex
 * 2, with more and longer phases than the least it asks for). One channel, by blocks of a multiple of eight
 * frames.
 */
export class TruePeakDetector {
  /** To be filled before {@link process}. */
  readonly input: Float64Array
  private readonly ups: readonly Interpolator[]
  private readonly buffers: readonly Float64Array[]

  constructor(frames: number) {
    const memory = new KernelMemory<HalfBandExports>(halfBandKernel, 8 * (30 * frames + 1024))
    this.input = memory.doubles(frames)
    this.ups = stages.map((design, k) => new Interpolator(design, frames << k, memory))
    this.buffers = stages.map((_, k) => memory.doubles(frames << (k + 1)))
  }

  reset(): void {
    for (const up of this.ups) up.reset()
  }

  /**
   * For each of `frames` frames of the input: the largest magnitude in its interval, or what stood in `peaks`
   * already where that is larger.
   */
  process(peaks: Float64Array, frames: number): void {
    const { ups, buffers } = this
    ups[0].process(this.input, buffers[0], frames)
    ups[1].process(buffers[0], buffers[1], 2 * frames)
    ups[2].process(buffers[1], buffers[2], 4 * frames)
    const y = buffers[2]
    for (let i = 0; i < frames; i++) {
      const k = 8 * i
      const a = Math.max(Math.abs(y[k]), Math.abs(y[k + 1])),
        b = Math.max(Math.abs(y[k + 2]), Math.abs(y[k + 3]))
      const c = Math.max(Math.abs(y[k + 4]), Math.abs(y[k + 5])),
        d = Math.max(Math.abs(y[k + 6]), Math.abs(y[k + 7]))
      peaks[i] = Math.max(peaks[i], Math.max(Math.max(a, b), Math.max(c, d)))
    }
  }
}

/** Frames that a meter works on at a time. */
const PIECE = 128

/** Largest true peak since the last reset. One channel, in pieces of any length. */
export class TruePeakMeter {
  /** Linear. */
  peak = FRACTION
  private readonly detector = new TruePeakDetector(PIECE)
  private readonly peaks = new Float64Array(PIECE)
  /** The last samples that were taken, and behind them those that wait until they are a multiple of eight. */
  private readonly recent = new Float64Array(REACH + PIECE)
  private waiting = 0
  /** Whether the detector has heard all up to here. */
  private follows = false

  reset(): void {
    this.peak = 0
    this.recent.fill(0)
    this.waiting = 0
    this.follows = false
  }

  process(signal: Float32Array): void {
    const { recent } = this
    for (let at = 0; at < signal.length;) {
      const count = Math.min(PIECE - this.waiting, signal.length - at)
      for (let i = 0; i < count; i++) recent[REACH + this.waiting + i] = signal[at + i]
      this.waiting += count
      at += count
      const whole = this.waiting & ~7
      if (whole > 0) this.take(whole)
    }
  }

  /**
   * Takes so many of the samples that wait. Where none of them can be a new peak, they are only remembered.
   */
  private take(frames: number): void {
    const { recent, detector, peaks } = this
    let largest = 0
    for (let i = 0; i < REACH + frames; i++) largest = Math.max(largest, Math.abs(recent[i]))
    if (largest * MOST_GAIN > this.peak) {
      if (!this.follows) {
        detector.reset()
        for (let i = 0; i < REACH; i++) detector.input[i] = recent[i]
        detector.process(peaks, REACH)
        this.follows = true
      }
      peaks.fill(0)
      for (let i = 0; i < frames; i++) detector.input[i] = recent[REACH + i]
      detector.process(peaks, frames)
      let peak = this.peak
      for (let i = 0; i < frames; i++) peak = Math.max(peak, peaks[i], Math.abs(recent[REACH + i]))
      this.peak = peak
    } else this.follows = false
    recent.copyWithin(0, frames, REACH + this.waiting)
    this.waiting -= frames
  }
}
