import { Fft } from '../dsp/fft'
import { cosCycles } from '../dsp/math'

/**
 * Magnitude spectrum of a stretch of sound, Hann window, scaled so that a full-scale sine shows 1 in its bin.
 * `size` is a power of two; results are overwritten by the next call.
 */
export class Spectrum {
  readonly magnitude: Float64Array
  private readonly fft: Fft
  private readonly window: Float64Array
  private readonly re: Float64Array
  private readonly im: Float64Array

  constructor(readonly size: number) {
    this.fft = new Fft(size)
    this.magnitude = new Float64Array(size / 2)
    this.re = new Float64Array(size)
    this.im = new Float64Array(size)
    this.window = Float64Array.from(
      { length: size },
      (_, i) => ((0.5 - 0.5 * cosCycles(i / size)) * 4) / size,
    )
  }

  /** Takes `size` samples ending before `end` of a ring. */
  ofRing(ring: Float32Array, end: number): Float64Array {
    const { size, re, im, window } = this
    const n = ring.length
    for (let i = 0; i < size; i++) re[i] = (ring[(end - size + i + n) % n] as number) * (window[i] as number)
    im.fill(0)
    this.fft.forward(re, im)
    for (let i = 0; i < size / 2; i++)
      this.magnitude[i] = Math.sqrt((re[i] as number) ** 2 + (im[i] as number) ** 2)
    return this.magnitude
  }
}
