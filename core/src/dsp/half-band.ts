import type { HalfBandExports } from './simd/half-band-kernel'
import type { KernelMemory } from './simd/kernel-memory'
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

  constructor(
    design: HalfBandDesign,
    maxInput: number,
    private readonly memory: KernelMemory<HalfBandExports>,
  ) {
    this.taps = placed(memory, design.taps)
    this.history = 2 * design.taps.length - 1
    this.work = memory.doubles(this.history + maxInput + 1)
  }

  reset(): void {
    this.work.fill(0)
  }

  /**
   * All `frames` samples of `input` become 2·frames of `output`; `frames` is a multiple of eight, both arrays
   * lie in the memory.
   */
  process(input: Float64Array, output: Float64Array, frames: number): void {
    const { taps, work, history } = this
    const pairs = taps.length
    const { simd } = this.memory
    if (simd) {
      simd.raise(
        input.byteOffset,
        work.byteOffset,
        history,
        taps.byteOffset,
        pairs,
        output.byteOffset,
        frames,
      )
      return
    }
    for (let i = 0; i < frames; i++) work[history + i] = input[i]
    foldedSums(taps, work, 0, work, history, output, 2, false, frames)
    for (let i = 0; i < frames; i++) output[2 * i + 1] = work[i + pairs]
    work.copyWithin(0, frames, frames + history)
  }
}

/** Rate ÷ 2. Delay: 2·pairs − 1 samples of the higher rate. */
export class Decimator {
  private readonly taps: Float64Array
  private readonly odd: Float64Array
  private readonly even: Float64Array
  private readonly history: number

  constructor(
    design: HalfBandDesign,
    maxOutput: number,
    private readonly memory: KernelMemory<HalfBandExports>,
  ) {
    this.taps = placed(memory, design.taps)
    this.history = 2 * design.taps.length - 1
    this.odd = memory.doubles(this.history + maxOutput + 1)
    this.even = memory.doubles(this.history + maxOutput + 1)
  }

  reset(): void {
    this.odd.fill(0)
    this.even.fill(0)
  }

  /** 2·frames samples of `input` become `frames` of `output`. */
  process(input: Float64Array, output: Float64Array, frames: number): void {
    const { taps, odd, even, history } = this
    const pairs = taps.length
    const { simd } = this.memory
    if (simd) {
      simd.lower(
        input.byteOffset,
        even.byteOffset,
        odd.byteOffset,
        history,
        taps.byteOffset,
        pairs,
        output.byteOffset,
        frames,
      )
      return
    }
    part(input, even, odd, history, frames)
    foldedSums(taps, even, 0, even, history, output, 1, false, frames)
    for (let i = 0; i < frames; i++) output[i] = 0.5 * (output[i] + odd[i + pairs - 1])
    odd.copyWithin(0, frames, frames + history)
    even.copyWithin(0, frames, frames + history)
  }
}

/**
 * Rate ÷ 2 by a symmetric FIR of even length, whose extra half sample of delay makes the half sample of a
 * first-order antiderivative whole. Delay: pairs − ½ samples of the higher rate.
 */
export class EvenDecimator {
  /** Weights from the outermost pair inwards, those of even and of odd place apart. */
  private readonly tapsA: Float64Array
  private readonly tapsB: Float64Array
  private readonly even: Float64Array
  private readonly odd: Float64Array
  private readonly history: number

  constructor(
    pairs: number,
    beta: number,
    maxOutput: number,
    private readonly memory: KernelMemory<HalfBandExports>,
  ) {
    const taps = new Float64Array(pairs)
    let sum = 0
    for (let k = 0; k < pairs; k++) {
      const x = pairs - 0.5 - k
      taps[k] = sinc(x / 2) * kaiser(x / pairs, beta)
      sum += 2 * taps[k]
    }
    this.tapsA = placed(
      memory,
      taps.filter((_, k) => k % 2 === 0).map((t) => t / sum),
    )
    this.tapsB = placed(
      memory,
      taps.filter((_, k) => k % 2 === 1).map((t) => t / sum),
    )
    this.history = pairs
    this.even = memory.doubles(pairs + maxOutput + 1)
    this.odd = memory.doubles(pairs + maxOutput + 1)
  }

  reset(): void {
    this.even.fill(0)
    this.odd.fill(0)
  }

  process(input: Float64Array, output: Float64Array, frames: number): void {
    const { tapsA, tapsB, even, odd, history } = this
    const { simd } = this.memory
    if (simd) {
      simd.lowerEven(
        input.byteOffset,
        even.byteOffset,
        odd.byteOffset,
        history,
        tapsA.byteOffset,
        tapsA.length,
        tapsB.byteOffset,
        tapsB.length,
        output.byteOffset,
        frames,
      )
      return
    }
    part(input, even, odd, history, frames)
    // The newest sample of output i is even sample i. Its pairs lie one in the even and one in the odd
    // samples: at odd distance 2·pairs − 1 from each other, the older one at odd place for the outermost
    // pair.
    foldedSums(tapsA, odd, 0, even, history, output, 1, false, frames)
    foldedSums(tapsB, even, 1, odd, history - 1, output, 1, true, frames)
    even.copyWithin(0, frames, frames + history)
    odd.copyWithin(0, frames, frames + history)
  }
}

/**
 * out[i · apart] = Σ taps[k] · (rising[r0 + i + k] + falling[f0 + i − k]), `onto` what stands there or not,
 * for a multiple of eight outputs. Four sums run at a time and hand their samples on from one tap to the
 * next, so each tap costs two loads instead of eight. The stages have SIMD kernels in simd/half-band.wat.
 */
function foldedSums(
  taps: Float64Array,
  rising: Float64Array,
  r0: number,
  falling: Float64Array,
  f0: number,
  out: Float64Array,
  apart: number,
  onto: boolean,
  frames: number,
): void {
  const pairs = taps.length
  for (let i = 0; i < frames; i += 4) {
    const r = r0 + i
    const f = f0 + i
    const o = i * apart
    let s0 = onto ? out[o] : 0,
      s1 = onto ? out[o + apart] : 0,
      s2 = onto ? out[o + 2 * apart] : 0,
      s3 = onto ? out[o + 3 * apart] : 0
    let a0 = rising[r],
      a1 = rising[r + 1],
      a2 = rising[r + 2]
    let b1 = falling[f + 1],
      b2 = falling[f + 2],
      b3 = falling[f + 3]
    for (let k = 0; k < pairs; k++) {
      const t = taps[k]
      const a3 = rising[r + k + 3]
      const b0 = falling[f - k]
      s0 += t * (a0 + b0)
      s1 += t * (a1 + b1)
      s2 += t * (a2 + b2)
      s3 += t * (a3 + b3)
      a0 = a1
      a1 = a2
      a2 = a3
      b3 = b2
      b2 = b1
      b1 = b0
    }
    out[o] = s0
    out[o + apart] = s1
    out[o + 2 * apart] = s2
    out[o + 3 * apart] = s3
  }
}

/** Even samples of the input to one array, odd ones to the other, from a place on. */
function part(input: Float64Array, even: Float64Array, odd: Float64Array, at: number, frames: number): void {
  for (let i = 0; i < frames; i++) {
    even[at + i] = input[2 * i]
    odd[at + i] = input[2 * i + 1]
  }
}

/** A copy of `values` in the memory. */
function placed(memory: KernelMemory<HalfBandExports>, values: Float64Array): Float64Array {
  const array = memory.doubles(values.length)
  array.set(values)
  return array
}
