import { kaiser, sinc } from './sinc-table'

/**
 * One doubling of the rate: interpolator and decimator by linear-phase FIR.
 * Kaiser-windowed half-band designs (Vaidyanathan, Multirate Systems and Filter Banks, 1993, ch. 4).
 */
export interface HalfBandDesign {
  /** `pairs` weights of the odd phase, from the outermost pair inwards; the even phase is a delay. */
  readonly taps: Float64Array
}

/** Odd-phase weights of a half-band filter of 4·pairs − 1 taps, for unit gain at the doubled rate. */
export function designHalfBand(pairs: number, beta: number): HalfBandDesign {
  const taps = new Float64Array(pairs)
  let sum = 0
  for (let k = 0; k < pairs; k++) {
    const x = pairs - 0.5 - k
    taps[k] = sinc(x) * kaiser(x / (pairs + 0.5), beta)
    sum += 2 * taps[k]
  }
  for (let k = 0; k < pairs; k++) taps[k] /= sum
  return { taps }
}

/** Rate × 2. Delay: 2·pairs − 1 samples of the doubled rate. */
export class Interpolator {
  private readonly taps: Float64Array
  private readonly work: Float64Array
  private readonly history: number

  constructor(design: HalfBandDesign, maxInput: number) {
    this.taps = design.taps
    this.history = 2 * design.taps.length - 1
    this.work = new Float64Array(this.history + maxInput)
  }

  reset(): void { this.work.fill(0) }

  /** All `frames` samples of `input` become 2·frames of `output`; `frames` is a multiple of four. */
  process(input: Float64Array, output: Float64Array, frames: number): void {
    const { taps, work, history } = this
    const pairs = taps.length
    work.set(input, history)
    // four outputs at a time: their sums do not wait for each other
    for (let i = 0; i < frames; i += 4) {
      let a = i
      let b = i + history
      let s0 = 0, s1 = 0, s2 = 0, s3 = 0
      for (let k = 0; k < pairs; k++) {
        const t = taps[k]
        s0 += t * (work[a] + work[b])
        s1 += t * (work[a + 1] + work[b + 1])
        s2 += t * (work[a + 2] + work[b + 2])
        s3 += t * (work[a + 3] + work[b + 3])
        a++
        b--
      }
      const o = 2 * i
      const c = i + pairs
      output[o] = s0
      output[o + 1] = work[c]
      output[o + 2] = s1
      output[o + 3] = work[c + 1]
      output[o + 4] = s2
      output[o + 5] = work[c + 2]
      output[o + 6] = s3
      output[o + 7] = work[c + 3]
    }
    work.copyWithin(0, frames, frames + history)
  }
}

/** Rate ÷ 2. Delay: 2·pairs − 1 samples of the higher rate. */
export class Decimator {
  private readonly taps: Float64Array
  private readonly odd: Float64Array
  private readonly even: Float64Array
  private readonly history: number

  constructor(design: HalfBandDesign, maxOutput: number) {
    this.taps = design.taps
    this.history = 2 * design.taps.length - 1
    this.odd = new Float64Array(this.history + maxOutput)
    this.even = new Float64Array(this.history + maxOutput)
  }

  reset(): void {
    this.odd.fill(0)
    this.even.fill(0)
  }

  /** 2·frames samples of `input` become `frames` of `output`. */
  process(input: Float64Array, output: Float64Array, frames: number): void {
    const { taps, odd, even, history } = this
    const pairs = taps.length
    for (let i = 0; i < frames; i++) {
      even[history + i] = input[2 * i]
      odd[history + i] = input[2 * i + 1]
    }
    for (let i = 0; i < frames; i += 4) {
      let a = i
      let b = i + history
      let s0 = 0, s1 = 0, s2 = 0, s3 = 0
      for (let k = 0; k < pairs; k++) {
        const t = taps[k]
        s0 += t * (even[a] + even[b])
        s1 += t * (even[a + 1] + even[b + 1])
        s2 += t * (even[a + 2] + even[b + 2])
        s3 += t * (even[a + 3] + even[b + 3])
        a++
        b--
      }
      const c = i + pairs - 1
      output[i] = 0.5 * (s0 + odd[c])
      output[i + 1] = 0.5 * (s1 + odd[c + 1])
      output[i + 2] = 0.5 * (s2 + odd[c + 2])
      output[i + 3] = 0.5 * (s3 + odd[c + 3])
    }
    odd.copyWithin(0, frames, frames + history)
    even.copyWithin(0, frames, frames + history)
  }
}

/**
 * Rate ÷ 2 by a symmetric FIR of even length, whose extra half sample of delay makes the half sample of a
 * first-order antiderivative whole. Delay: pairs − ½ samples of the higher rate.
 */
export class EvenDecimator {
  private readonly taps: Float64Array
  private readonly work: Float64Array
  private readonly history: number

  constructor(private readonly pairs: number, beta: number, maxOutput: number) {
    this.taps = new Float64Array(pairs)
    let sum = 0
    for (let k = 0; k < pairs; k++) {
      const x = (pairs - 0.5 - k)
      this.taps[k] = sinc(x / 2) * kaiser(x / pairs, beta)
      sum += 2 * this.taps[k]
    }
    for (let k = 0; k < pairs; k++) this.taps[k] /= sum
    this.history = 2 * pairs - 1
    this.work = new Float64Array(this.history + 2 * maxOutput)
  }

  reset(): void { this.work.fill(0) }

  process(input: Float64Array, output: Float64Array, frames: number): void {
    const { taps, work, history, pairs } = this
    work.set(input, history)
    for (let i = 0; i < frames; i += 4) {
      let a = 2 * i
      let b = 2 * i + history
      let s0 = 0, s1 = 0, s2 = 0, s3 = 0
      for (let k = 0; k < pairs; k++) {
        const t = taps[k]
        s0 += t * (work[a] + work[b])
        s1 += t * (work[a + 2] + work[b + 2])
        s2 += t * (work[a + 4] + work[b + 4])
        s3 += t * (work[a + 6] + work[b + 6])
        a++
        b--
      }
      output[i] = s0
      output[i + 1] = s1
      output[i + 2] = s2
      output[i + 3] = s3
    }
    work.copyWithin(0, 2 * frames, 2 * frames + history)
  }
}
