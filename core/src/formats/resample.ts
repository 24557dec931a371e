import { kaiser, sinc } from '../dsp/sinc-table'

/** Window of the kernel: images and aliases below −100 dB. */
const BETA = 10

/** How steep the filter is: zero crossings of its kernel on each side, and its corner, as a share. */
export interface Steepness {
  readonly crossings: number
  readonly corner: number
}
const usual: Steepness = { crossings: 32, corner: 0.96 }
/** For files that leave: flat within 0.05 dB to 20 kHz at 44.1 kHz, and nothing above half the rate. */
export const steep: Steepness = { crossings: 128, corner: 0.975 }

/**
 * Converts sound to another sample rate by windowed sinc with its corner at the lower Nyquist
 * (Smith, Digital Audio Resampling, 1984). Offline; deterministic on every machine.
 */
export const resample = (input: Float32Array, from: number, to: number): Float32Array<ArrayBuffer> => {
  const way = new Resampler(from, to)
  return way.read(input, 0, 0, way.framesOf(input.length))
}

/** The same for any stretch of the output: pieces put together are what a whole is, to the bit. */
export class Resampler {
  private readonly corner: number
  private readonly half: number
  // the ratio repeats after so many outputs, so the kernels are few
  private readonly phases: number
  private readonly step: number
  private readonly kernels = new Map<number, { readonly first: number; readonly weights: Float64Array }>()

  constructor(
    private readonly from: number,
    private readonly to: number,
    { crossings, corner }: Steepness = usual,
  ) {
    this.corner = Math.min(1, to / from) * corner
    this.half = crossings / this.corner
    const divisor = gcd(from, to)
    this.phases = to / divisor
    this.step = from / divisor
  }

  /** Number of output frames for so many input frames. */
  framesOf(frames: number): number {
    return this.from === this.to ? frames : Math.max(1, Math.round((frames * this.to) / this.from))
  }

  /**
   * Frames of input from the first to behind the last that frames `first` to `end` of the output are made
   * from; they may lie outside of it.
   */
  reach(first: number, end: number): readonly [number, number] {
    if (this.from === this.to) return [first, end]
    const { from, to, half } = this
    return [Math.floor((first * from) / to - half) - 1, Math.ceil(((end - 1) * from) / to + half) + 2]
  }

  /**
   * Frames `first` to `end` of the output, from input that begins at its frame `start`. What is not in it
   * counts as silence.
   */
  read(input: Float32Array, start: number, first: number, end: number): Float32Array<ArrayBuffer> {
    const { from, to } = this
    if (from === to) return new Float32Array(input.subarray(first - start, end - start))
    const out = new Float32Array(end - first)
    for (let i = first; i < end; i++) {
      const kernel = this.kernel(i)
      const { weights } = kernel
      const base = Math.floor((i * from) / to) + kernel.first - start
      let y = 0
      if (base >= 0 && base + weights.length <= input.length)
        for (let k = 0; k < weights.length; k++) y += (weights[k] as number) * (input[base + k] as number)
      else
        for (let k = Math.max(0, -base); k < weights.length && base + k < input.length; k++)
          y += (weights[k] as number) * (input[base + k] as number)
      out[i - first] = y
    }
    return out
  }

  /**
   * What output frame `i` is made of: weights of input frames, the first of them counted from the frame at or
   * before its time.
   */
  kernel(i: number): { readonly first: number; readonly weights: Float64Array } {
    const { corner, half, phases, step } = this
    if (this.from === this.to) return same
    const phase = (i * step) % phases
    const known = this.kernels.get(phase)
    if (known) return known
    const fraction = phase / phases
    const first = Math.ceil(fraction - half)
    const weights = new Float64Array(Math.floor(fraction + half) - first + 1)
    let sum = 0
    for (let k = 0; k < weights.length; k++) {
      const x = first + k - fraction
      weights[k] = sinc(x * corner) * kaiser(x / half, BETA)
      sum += weights[k] as number
    }
    for (let k = 0; k < weights.length; k++) weights[k] = (weights[k] as number) / sum
    const made = { first, weights }
    this.kernels.set(phase, made)
    return made
  }
}

const same = { first: 0, weights: Float64Array.of(1) }
const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b))
