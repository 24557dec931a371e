import { hilbertBytes } from './simd/hilbert.wasm'
import { SimdKernel, KernelMemory } from './simd/kernel-memory'
import { cosCycles, exp2, log2, sinCycles, tanPi } from './math'

/** All-passes in both branches together. */
const COUNT = 12
/** Lower edge of the band in which the two outputs stand at a right angle, as a share of the sample rate. */
const EDGE = 38 / 48_000

/**
 * Coefficients of a half-band filter of two all-pass branches, elliptic (Valenzuela & Constantinides,
 * "Digital signal processing schemes for efficient interpolation and decimation", IEE Proc. 130, 1983).
 */
function design(): Float64Array {
  const k = tanPi(0.25 - EDGE / 2) ** 2
  const root = Math.sqrt(Math.sqrt(1 - k * k))
  const e = (0.5 * (1 - root)) / (1 + root)
  const e4 = e * e * e * e
  const q = e * (1 + e4 * (2 + e4 * (15 + 150 * e4)))
  const order = 2 * COUNT + 1
  const power = (n: number): number => exp2(n * log2(q))
  return Float64Array.from({ length: COUNT }, (_, index) => {
    const c = index + 1
    let top = 0
    let bottom = 0.5
    for (let i = 0, sign = 1; i < 12; i++, sign = -sign) {
      top += sign * power(i * (i + 1)) * sinCycles(((2 * i + 1) * c) / order / 2)
      if (i > 0) bottom += sign * power(i * i) * cosCycles((i * c) / order)
    }
    const w = ((top * power(0.25)) / bottom) ** 2
    const x = Math.sqrt((1 - w * k) * (1 - w / k)) / (1 + w)
    return (1 - x) / (1 + x)
  })
}

const coefficients = design()

interface KernelExports {
  turn(
    real: number,
    imag: number,
    held: number,
    coefficients: number,
    memory: number,
    pairs: number,
    frames: number,
  ): void
}
const kernel = new SimdKernel<KernelExports>(hilbertBytes)

/** Numbers that an all-pass of both sides keeps: the last two inputs and outputs. */
const KEPT = 8

/**
 * Two copies of a signal, of equal size and at a right angle to each other from 38 Hz to as much below half
 * the sample rate (at 48 kHz): the half-band filter's branches, turned by a quarter of the sample rate.
 * Stereo: left and right of each frame lie side by side.
 */
export class HilbertPair {
  /** Input, and one copy after {@link process}. */
  readonly real: Float64Array
  /** The other copy. */
  readonly imag: Float64Array
  private readonly kept: Float64Array
  private readonly held: Float64Array
  private readonly coefficients: Float64Array
  private readonly memory: KernelMemory<KernelExports>

  /** @param frames of a block */
  constructor(frames: number) {
    const memory = (this.memory = new KernelMemory(kernel, 8 * (4 * frames + (KEPT + 1) * COUNT + 8)))
    this.real = memory.doubles(2 * frames)
    this.imag = memory.doubles(2 * frames)
    this.kept = memory.doubles(KEPT * COUNT)
    this.held = memory.doubles(2)
    this.coefficients = memory.doubles(COUNT)
    this.coefficients.set(coefficients)
  }

  reset(): void {
    this.kept.fill(0)
    this.held.fill(0)
  }

  /** Turns frames `start` to `end`. */
  process(start: number, end: number): void {
    const { real, imag, kept, held } = this
    const { simd } = this.memory
    if (simd)
      simd.turn(
        real.byteOffset + 16 * start,
        imag.byteOffset + 16 * start,
        held.byteOffset,
        this.coefficients.byteOffset,
        kept.byteOffset,
        COUNT / 2,
        end - start,
      )
    else {
      for (let i = 2 * start; i < 2 * end; i++) {
        imag[i] = held[i & 1]
        held[i & 1] = real[i]
      }
      for (let k = 0; k < COUNT; k += 2)
        for (let side = 0; side < 2; side++) {
          allPass(real, coefficients[k], kept, KEPT * k + side, start, end)
          allPass(imag, coefficients[k + 1], kept, KEPT * (k + 1) + side, start, end)
        }
    }
    for (let k = 0; k < kept.length; k++) if (kept[k] < 1e-20 && kept[k] > -1e-20) kept[k] = 0
  }
}

/** (a − z⁻²) / (1 − a z⁻²) on one side, which is that of the place of what it keeps. */
function allPass(
  x: Float64Array,
  a: number,
  kept: Float64Array,
  at: number,
  start: number,
  end: number,
): void {
  let x1 = kept[at],
    x2 = kept[at + 2],
    y1 = kept[at + 4],
    y2 = kept[at + 6]
  for (let i = 2 * start + (at & 1); i < 2 * end; i += 2) {
    const y = a * (x[i] + y2) - x2
    x2 = x1
    x1 = x[i]
    y2 = y1
    y1 = y
    x[i] = y
  }
  kept[at] = x1
  kept[at + 2] = x2
  kept[at + 4] = y1
  kept[at + 6] = y2
}
