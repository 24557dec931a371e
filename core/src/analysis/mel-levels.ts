import type { Stereo } from '../contract/audio'
import { Fft } from '../dsp/fft'
import { cosCycles, exp2, log2, toDb } from '../dsp/math'

/** Bands, and their range in Hz. */
export const MEL_BANDS = 64
const LOWEST = 30
const HIGHEST = 16_000
/** Levels in dB below which nothing is told apart. */
export const FLOOR = -80
const FLOOR_POWER = 1e-8

/** Levels of a sound by band and frame, and what its sides have in common. */
export interface MelLevels {
  readonly frames: number
  /** Frames in a second. */
  readonly rate: number
  /** Levels in dB of full scale, −80 at least: frame by frame, each left then right, from low to high. */
  readonly levels: Float32Array
  /** Mean power of left, right, middle and sides by band, over all frames. */
  readonly powers: Readonly<Record<'left' | 'right' | 'middle' | 'sides', Float64Array>>
}

const mel = (hz: number): number => 1127 * Math.LN2 * log2(1 + hz / 700)
const hertz = (m: number): number => 700 * (exp2(m / (1127 * Math.LN2)) - 1)

/** Borders of the bands in Hz, one more than there are bands: equal widths in mel. */
export const melBorders: readonly number[] = Array.from({ length: MEL_BANDS + 1 }, (_, k) =>
  hertz(mel(LOWEST) + ((mel(HIGHEST) - mel(LOWEST)) * k) / MEL_BANDS),
)

/**
 * Splits a sound into windows (Hann, overlapping by half) and mel bands (O’Shaughnessy, *Speech
 * Communication*, 1987). A bin counts for a band by the part of its width that lies in it, so that bands
 * narrower than a bin have their share. What is missing in the last window is silence. A sine at full scale
 * is about 0 dB.
 * @param size of a window in frames, a power of two
 */
export class MelAnalysis {
  private readonly fft: Fft
  private readonly window: Float64Array
  private readonly re: Float64Array
  private readonly im: Float64Array
  /** First bin of each band, and where its weights begin. */
  private readonly first: Int32Array
  private readonly from: Int32Array
  private readonly weights: Float64Array
  /** Bins that bands reach to. */
  private readonly bins: number

  constructor(
    readonly size: number,
    private readonly sampleRate: number,
  ) {
    this.fft = new Fft(size)
    this.window = Float64Array.from({ length: size }, (_, i) => 0.5 - 0.5 * cosCycles(i / size))
    this.re = new Float64Array(size)
    this.im = new Float64Array(size)
    const width = sampleRate / size
    const weights: number[] = []
    this.first = new Int32Array(MEL_BANDS)
    this.from = new Int32Array(MEL_BANDS + 1)
    for (let b = 0; b < MEL_BANDS; b++) {
      const [low, high] = [melBorders[b] as number, melBorders[b + 1] as number]
      const first = Math.max(1, Math.floor(low / width + 0.5))
      this.first[b] = first
      for (let k = first; k < size / 2 && (k - 0.5) * width < high; k++)
        weights.push(
          Math.max(0, Math.min(high, (k + 0.5) * width) - Math.max(low, (k - 0.5) * width)) / width,
        )
      this.from[b + 1] = weights.length
    }
    this.weights = Float64Array.from(weights)
    this.bins = Math.min(size / 2, Math.ceil(HIGHEST / width + 0.5))
  }

  /** @param hop frames from one window to the next */
  of([left, right]: Stereo, hop = this.size / 2): MelLevels {
    const { size, re, im, fft } = this
    const frames = Math.max(1, Math.ceil((left.length - size) / hop) + 1)
    const levels = new Float32Array(frames * 2 * MEL_BANDS)
    const sums = {
      left: new Float64Array(MEL_BANDS),
      right: new Float64Array(MEL_BANDS),
      middle: new Float64Array(MEL_BANDS),
      sides: new Float64Array(MEL_BANDS),
    }
    const power = new Float64Array(2 * size)
    for (let f = 0; f < frames; f++) {
      this.load(left, f * hop, re)
      this.load(right, f * hop, im)
      fft.forward(re, im)
      this.split(power)
      for (let b = 0; b < MEL_BANDS; b++) this.band(b, power, levels, f, sums)
    }
    for (const all of Object.values(sums)) for (let b = 0; b < MEL_BANDS; b++) all[b] /= frames
    return { frames, rate: this.sampleRate / hop, levels, powers: sums }
  }

  private load(side: Float32Array, at: number, into: Float64Array): void {
    const { size, window } = this
    const there = Math.min(size, side.length - at)
    for (let i = 0; i < there; i++) into[i] = side[at + i] * window[i]
    into.fill(0, Math.max(0, there))
  }

  /** Powers of left and right, and the real part of their product, by bin: both were one transform. */
  private split(power: Float64Array): void {
    const { size, re, im, bins } = this
    // a sine of amplitude 1 has a quarter of the window’s sum in its bin
    const scale = 16 / (size * size) / 4
    for (let k = 1; k < bins; k++) {
      const lr = re[k] + re[size - k],
        li = im[k] - im[size - k],
        rr = im[k] + im[size - k],
        ri = re[size - k] - re[k]
      power[k] = (lr * lr + li * li) * scale
      power[size / 2 + k] = (rr * rr + ri * ri) * scale
      power[size + k] = (lr * rr + li * ri) * scale
    }
  }

  private band(
    b: number,
    power: Float64Array,
    levels: Float32Array,
    frame: number,
    sums: MelLevels['powers'],
  ): void {
    const { size, first, from, weights } = this
    let [l, r, both] = [0, 0, 0]
    for (let w = from[b], k = first[b]; w < from[b + 1]; w++, k++) {
      l += weights[w] * power[k]
      r += weights[w] * power[size / 2 + k]
      both += weights[w] * power[size + k]
    }
    sums.left[b] += l
    sums.right[b] += r
    sums.middle[b] += (l + r + 2 * both) / 4
    sums.sides[b] += (l + r - 2 * both) / 4
    const at = frame * 2 * MEL_BANDS + b
    levels[at] = l > FLOOR_POWER ? toDb(l) / 2 : FLOOR
    levels[at + MEL_BANDS] = r > FLOOR_POWER ? toDb(r) / 2 : FLOOR
  }
}
