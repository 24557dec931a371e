import { cosCycles, exp2, log2, sinCycles, tanPi } from './math'

/** All-passes in both branches together. */
const COUNT = 12
/** Lower edge of the band in which the two outputs stand at a right angle, as a share of the sample rate. */
const EDGE = 38 / 48_000

/**
 * Coefficients of a half-band filter of two all-pass branches, elliptic (Valenzuela & Constantinides, "Digital signal processing
 * schemes for efficient interpolation and decimation", IEE Proc. 130, 1983).
 */
function design(): Float64Array {
  const k = tanPi(0.25 - EDGE / 2) ** 2
  const root = Math.sqrt(Math.sqrt(1 - k * k))
  const e = 0.5 * (1 - root) / (1 + root)
  const e4 = e * e * e * e
  const q = e * (1 + e4 * (2 + e4 * (15 + 150 * e4)))
  const order = 2 * COUNT + 1
  const power = (n: number): number => exp2(n * log2(q))
  return Float64Array.from({ length: COUNT }, (_, index) => {
    const c = index + 1
    let top = 0
    let bottom = 0.5
    for (let i = 0, sign = 1; i < 12; i++, sign = -sign) {
      top += sign * power(i * (i + 1)) * sinCycles((2 * i + 1) * c / order / 2)
      if (i > 0) bottom += sign * power(i * i) * cosCycles(i * c / order)
    }
    const w = (top * power(0.25) / bottom) ** 2
    const x = Math.sqrt((1 - w * k) * (1 - w / k)) / (1 + w)
    return (1 - x) / (1 + x)
  })
}

const coefficients = design()

/**
 * Two copies of a signal, of equal size and at a right angle to each other from 38 Hz to as much below half the sample rate (at
 * 48 kHz): the half-band filter's branches, turned by a quarter of the sample rate. One channel.
 */
export class HilbertPair {
  /** Of each all-pass: the last two inputs and outputs. */
  private readonly memory = new Float64Array(4 * COUNT)
  private readonly held = new Float64Array(1)

  reset(): void {
    this.memory.fill(0)
    this.held.fill(0)
  }

  /** @param real, imaginary get the two copies of `x`, so many samples of each */
  process(x: Float64Array, real: Float64Array, imaginary: Float64Array, start: number, end: number): void {
    const { memory, held } = this
    for (let i = start; i < end; i++) {
      real[i] = x[i]
      imaginary[i] = held[0]
      held[0] = x[i]
    }
    for (let k = 0; k < COUNT; k++) {
      const y = k & 1 ? imaginary : real
      const a = coefficients[k]
      const m = 4 * k
      let x1 = memory[m], x2 = memory[m + 1], y1 = memory[m + 2], y2 = memory[m + 3]
      // (a − z⁻²) / (1 − a z⁻²)
      for (let i = start; i < end; i++) {
        const v = y[i]
        const w = a * (v + y2) - x2
        x2 = x1
        x1 = v
        y2 = y1
        y1 = w
        y[i] = w
      }
      memory[m] = x1
      memory[m + 1] = x2
      memory[m + 2] = y1 > 1e-20 || y1 < -1e-20 ? y1 : 0
      memory[m + 3] = y2 > 1e-20 || y2 < -1e-20 ? y2 : 0
    }
  }
}
