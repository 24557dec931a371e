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
    const { size, reversed } = this
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
    // Stages go in pairs, which halves the way to memory and gives the same bits; an odd one comes first.
    let span = 1
    if (Math.clz32(size) % 2 === 0) {
      this.firstStage(re, im)
      span = 2
    }
    for (; span < size; span *= 4) for (let k = 0; k < span; k++) this.twoStages(re, im, span, k)
  }

  /** Two stages of all butterflies with the k-th factors. */
  private twoStages(re: Float64Array, im: Float64Array, span: number, k: number): void {
    const { size, cosTable, sinTable } = this
    const step = size / (4 * span)
    const c1 = cosTable[2 * k * step]
    const s1 = sinTable[2 * k * step]
    const c2 = cosTable[k * step]
    const s2 = sinTable[k * step]
    const c3 = cosTable[(k + span) * step]
    const s3 = sinTable[(k + span) * step]
    for (let a = k; a < size; a += 4 * span) {
      const b = a + span
      const c = b + span
      const d = c + span
      let xr = re[b] * c1 - im[b] * s1
      let xi = re[b] * s1 + im[b] * c1
      const br = re[a] - xr
      const bi = im[a] - xi
      const ar = re[a] + xr
      const ai = im[a] + xi
      xr = re[d] * c1 - im[d] * s1
      xi = re[d] * s1 + im[d] * c1
      const dr = re[c] - xr
      const di = im[c] - xi
      const cr = re[c] + xr
      const ci = im[c] + xi
      xr = cr * c2 - ci * s2
      xi = cr * s2 + ci * c2
      re[c] = ar - xr
      im[c] = ai - xi
      re[a] = ar + xr
      im[a] = ai + xi
      xr = dr * c3 - di * s3
      xi = dr * s3 + di * c3
      re[d] = br - xr
      im[d] = bi - xi
      re[b] = br + xr
      im[b] = bi + xi
    }
  }

  private firstStage(re: Float64Array, im: Float64Array): void {
    const { size, cosTable, sinTable } = this
    const c = cosTable[0]
    const s = sinTable[0]
    for (let i = 0; i < size; i += 2) {
      const xr = re[i + 1] * c - im[i + 1] * s
      const xi = re[i + 1] * s + im[i + 1] * c
      re[i + 1] = re[i] - xr
      im[i + 1] = im[i] - xi
      re[i] += xr
      im[i] += xi
    }
  }
}
