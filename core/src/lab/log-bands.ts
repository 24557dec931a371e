import type { Stereo } from '../contract/audio'
import { Fft } from '../dsp/fft'
import { cosCycles, exp2, log2 } from '../dsp/math'

/** Mean power in bands of equal width in octaves, of windows along a sound. */
export interface LogBands {
  /** Middle of each band in Hz. */
  readonly frequencies: Float64Array
  /** Number of bins of the transform in each band. */
  readonly bins: Int32Array
  /** Middle of each window in seconds. */
  readonly times: Float64Array
  /** Powers of left, right and of the left times the right (real part), window by window. */
  readonly left: Float64Array
  readonly right: Float64Array
  readonly cross: Float64Array
}

const SIZE = 8192

/**
 * Powers by band and window (Hann, 8192 frames). A sine of peak 1 in the middle of a bin has a power of ½
 * over the bins of its band.
 * @param bands number of bands an octave
 * @param windows how many along the sound
 */
export function logBands(
  [left, right]: Stereo,
  sampleRate: number,
  bands: number,
  windows: number,
  [lowest, highest]: readonly [number, number] = [20, 20_000],
): LogBands {
  const count = Math.floor(log2(highest / lowest) * bands + 1e-9) + 1
  const fft = new Fft(SIZE)
  // power of the window: 3/8 of the frames
  const scale = 1 / (SIZE * SIZE * 0.375)
  const shape = Float64Array.from({ length: SIZE }, (_, i) => 0.5 - 0.5 * cosCycles(i / SIZE))
  const bandOf = Int32Array.from({ length: SIZE / 2 }, (_, k) => {
    if (k === 0) return -1
    const band = Math.round(log2((k * sampleRate) / SIZE / lowest) * bands)
    return band >= 0 && band < count ? band : -1
  })
  const out: LogBands = {
    frequencies: Float64Array.from({ length: count }, (_, b) => lowest * exp2(b / bands)),
    bins: new Int32Array(count),
    times: new Float64Array(windows),
    left: new Float64Array(count * windows),
    right: new Float64Array(count * windows),
    cross: new Float64Array(count * windows),
  }
  for (const band of bandOf) if (band >= 0) out.bins[band]++
  const [re, im] = [new Float64Array(SIZE), new Float64Array(SIZE)]
  const room = Math.max(0, left.length - SIZE)
  for (let w = 0; w < windows; w++) {
    const from = windows > 1 ? Math.round((room * w) / (windows - 1)) : 0
    out.times[w] = (from + SIZE / 2) / sampleRate
    for (let i = 0; i < SIZE; i++) {
      re[i] = (left[from + i] ?? 0) * shape[i]
      im[i] = (right[from + i] ?? 0) * shape[i]
    }
    fft.forward(re, im)
    for (let k = 1; k < SIZE / 2; k++) {
      const band = bandOf[k]
      if (band < 0) continue
      const j = SIZE - k
      const [lr, li] = [(re[k] + re[j]) / 2, (im[k] - im[j]) / 2]
      const [rr, ri] = [(im[k] + im[j]) / 2, (re[j] - re[k]) / 2]
      const at = w * count + band
      out.left[at] += 2 * scale * (lr * lr + li * li)
      out.right[at] += 2 * scale * (rr * rr + ri * ri)
      out.cross[at] += 2 * scale * (lr * rr + li * ri)
    }
  }
  return out
}
