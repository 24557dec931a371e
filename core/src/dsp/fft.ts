import { cosCycles, sinCycles } from './math'

/**
 * In-place complex FFT of a power-of-two size, radix 2, tables from core's own sine
 * (Cooley & Tukey 1965). For what reaches the sound as well as for analysis.
 */
export class Fft {
  private readonly cosTable: Float64Array
  private readonly sinTable: Float64Array
  private readonly reversed: Uint32Array

  constructor(readonly size: number) {
    if (size < 2 || (size & (size - 1)) !== 0)
      throw new RangeError(`FFT size must be a power of two, not ${size}`)
    this.cosTable = new Float64Array(size / 2)
    this.sinTable = new Float64Array(size / 2)
    for (let i = 0; i < size / 2; i++) {
      this.cosTable[i] = cosCycles(i / size)
      this.sinTable[i] = -sinCycles(i / size)
    }
    this.reversed = new Uint32Array(size)
    for (let i = 1; i < size; i++) this.reversed[i] = (this.reversed[i >> 1] >> 1) | (i & 1 ? size >> 1 : 0)
  }

  /** re, im: `size` numbers each, replaced by their transform. */
  forward(re: Float64Array, im: Float64Array): void {
    const { size, cosTable, sinTable, reversed } = this
    for (let i = 0; i < size; i++) {
      const j = reversed[i]
      if (j > i) {
        const a = re[i]
        re[i] = re[j]
        re[j] = a
        const b = im[i]
        im[i] = im[j]
        im[j] = b
      }
    }
    for (let span = 1; span < size; span *= 2) {
      const step = size / (2 * span)
      for (let start = 0; start < size; start += 2 * span) {
        for (let k = 0, t = 0; k < span; k++, t += step) {
          const i = start + k
          const j = i + span
          const c = cosTable[t]
          const s = sinTable[t]
          const xr = re[j] * c - im[j] * s
          const xi = re[j] * s + im[j] * c
          re[j] = re[i] - xr
          im[j] = im[i] - xi
          re[i] += xr
          im[i] += xi
        }
      }
    }
  }
}
