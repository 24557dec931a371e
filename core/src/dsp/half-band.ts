import type { FirMemory } from './simd/fir-memory'
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
  private readonly sums: Float64Array
  private readonly history: number

  constructor(design: HalfBandDesign, maxInput: number, private readonly memory: FirMemory) {
    this.taps = placed(memory, design.taps)
    this.history = 2 * design.taps.length - 1
    this.work = memory.array(this.history + maxInput)
    this.sums = memory.array(maxInput)
  }

  reset(): void { this.work.fill(0) }

  /** All `frames` samples of `input` become 2·frames of `output`; `frames` is a multiple of eight, both arrays lie in the memory. */
  process(input: Float64Array, output: Float64Array, frames: number): void {
    const { taps, work, sums, history } = this
    const pairs = taps.length
    work.set(input, history)
    foldedSums(this.memory, taps, work, 0, work, history, sums, frames)
    const { twins } = this.memory
    if (twins) twins.interleave(sums.byteOffset, work.byteOffset + 8 * pairs, output.byteOffset, frames)
    else {
      for (let i = 0; i < frames; i++) {
        output[2 * i] = sums[i]
        output[2 * i + 1] = work[i + pairs]
      }
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

  constructor(design: HalfBandDesign, maxOutput: number, private readonly memory: FirMemory) {
    this.taps = placed(memory, design.taps)
    this.history = 2 * design.taps.length - 1
    this.odd = memory.array(this.history + maxOutput)
    this.even = memory.array(this.history + maxOutput)
  }

  reset(): void {
    this.odd.fill(0)
    this.even.fill(0)
  }

  /** 2·frames samples of `input` become `frames` of `output`. */
  process(input: Float64Array, output: Float64Array, frames: number): void {
    const { taps, odd, even, history } = this
    const pairs = taps.length
    part(this.memory, input, even, odd, history, frames)
    foldedSums(this.memory, taps, even, 0, even, history, output, frames)
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
  private readonly sums: Float64Array
  private readonly history: number

  constructor(pairs: number, beta: number, maxOutput: number, private readonly memory: FirMemory) {
    const taps = new Float64Array(pairs)
    let sum = 0
    for (let k = 0; k < pairs; k++) {
      const x = pairs - 0.5 - k
      taps[k] = sinc(x / 2) * kaiser(x / pairs, beta)
      sum += 2 * taps[k]
    }
    this.tapsA = placed(memory, taps.filter((_, k) => k % 2 === 0).map((t) => t / sum))
    this.tapsB = placed(memory, taps.filter((_, k) => k % 2 === 1).map((t) => t / sum))
    this.history = pairs
    this.even = memory.array(pairs + maxOutput)
    this.odd = memory.array(pairs + maxOutput)
    this.sums = memory.array(maxOutput)
  }

  reset(): void {
    this.even.fill(0)
    this.odd.fill(0)
  }

  process(input: Float64Array, output: Float64Array, frames: number): void {
    const { tapsA, tapsB, even, odd, sums, history } = this
    part(this.memory, input, even, odd, history, frames)
    // The newest sample of output i is even sample i. Its pairs lie one in the even and one in the odd samples: at odd
    // distance 2·pairs − 1 from each other, the older one at odd place for the outermost pair.
    foldedSums(this.memory, tapsA, odd, 0, even, history, output, frames)
    foldedSums(this.memory, tapsB, even, 1, odd, history - 1, sums, frames)
    for (let i = 0; i < frames; i++) output[i] += sums[i]
    even.copyWithin(0, frames, frames + history)
    odd.copyWithin(0, frames, frames + history)
  }
}

/**
 * out[i] = Σ taps[k] · (rising[r0 + i + k] + falling[f0 + i − k]) for a multiple of eight outputs, all in one memory.
 * Where there is SIMD its twin does it. Here four sums run at a time and hand their samples on from one tap to the
 * next, so each tap costs two loads instead of eight.
 */
function foldedSums(memory: FirMemory, taps: Float64Array, rising: Float64Array, r0: number, falling: Float64Array, f0: number, out: Float64Array, frames: number): void {
  const pairs = taps.length
  if (memory.twins) {
    memory.twins.foldedSums(taps.byteOffset, pairs, rising.byteOffset + 8 * r0, falling.byteOffset + 8 * f0, out.byteOffset, frames)
    return
  }
  for (let i = 0; i < frames; i += 4) {
    const r = r0 + i
    const f = f0 + i
    let s0 = 0, s1 = 0, s2 = 0, s3 = 0
    let a0 = rising[r], a1 = rising[r + 1], a2 = rising[r + 2]
    let b1 = falling[f + 1], b2 = falling[f + 2], b3 = falling[f + 3]
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
    out[i] = s0
    out[i + 1] = s1
    out[i + 2] = s2
    out[i + 3] = s3
  }
}

/** Even samples of the input to one array, odd ones to the other, from a place on. */
function part(memory: FirMemory, input: Float64Array, even: Float64Array, odd: Float64Array, at: number, frames: number): void {
  if (memory.twins) {
    memory.twins.part(input.byteOffset, even.byteOffset + 8 * at, odd.byteOffset + 8 * at, frames)
    return
  }
  for (let i = 0; i < frames; i++) {
    even[at + i] = input[2 * i]
    odd[at + i] = input[2 * i + 1]
  }
}

/** A copy of `values` in the memory. */
function placed(memory: FirMemory, values: Float64Array): Float64Array {
  const array = memory.array(values.length)
  array.set(values)
  return array
}
