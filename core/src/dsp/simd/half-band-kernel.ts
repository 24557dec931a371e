import { halfBandBytes } from './half-band.wasm'
import { SimdKernel } from './kernel-memory'

/**
 * KernelExports of the half-band stages and of the round curve; all places are byte offsets, `history` counts
 * doubles.
 */
export interface HalfBandExports {
  raise(
    input: number,
    work: number,
    history: number,
    taps: number,
    pairs: number,
    out: number,
    frames: number,
  ): void
  lower(
    input: number,
    even: number,
    odd: number,
    history: number,
    taps: number,
    pairs: number,
    out: number,
    frames: number,
  ): void
  lowerEven(
    input: number,
    even: number,
    odd: number,
    history: number,
    tapsA: number,
    pairsA: number,
    tapsB: number,
    pairsB: number,
    out: number,
    frames: number,
  ): void
  shapeRound(x: number, frames: number, state: number): void
}

export const halfBandKernel = new SimdKernel<HalfBandExports>(halfBandBytes)
