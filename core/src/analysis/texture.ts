import { Fft } from '../dsp/fft'
import { cosCycles, exp2, log2, pow, toDb } from '../dsp/math'
import { MEL_BANDS, type MelLevels } from './mel-levels'

/** Bands of a texture: two of the mel bands each, both sides together. */
const BANDS = MEL_BANDS / 2
/** Modulation in Hz, in so many bands of equal width in octaves. */
export const MODULATION_BANDS = 8
const SLOWEST = 0.5
const FASTEST = 20
/** Envelopes are amplitudes to this power, as the ear compresses them. */
const COMPRESSED = 0.3
/** Distances, in bands, of envelopes that are correlated. */
const APART = [1, 2, 3, 5, 8] as const
/** Modulation in dB of a full swing below which nothing moves. */
const STILL = -40
const QUIET = 1e-8

/** Statistics of the envelopes of a sound, by band. */
export interface Texture {
  /** Mean level in dB. */
  readonly means: Float64Array
  /** Deviation in dB of the mean. */
  readonly deviations: Float64Array
  /** Correlations with the envelopes of bands {@link APART} above. */
  readonly correlations: Float64Array
  /** Modulation in dB of the mean, −40 at least: {@link MODULATION_BANDS} for each band. */
  readonly modulation: Float64Array
}

/**
 * What a sound is like without regard to when things happen (McDermott & Simoncelli, *Sound Texture
 * Perception via Statistics of the Auditory Periphery*, 2011): means, deviations and correlations of
 * compressed band envelopes, and their modulation spectra.
 */
export function textureOf(levels: MelLevels): Texture {
  const envelopes = Array.from({ length: BANDS }, (_, b) => envelopeOf(levels, b))
  const means = envelopes.map(meanOf)
  const around = envelopes.map((e, b) => e.map((x) => x / Math.max(QUIET, means[b] as number) - 1))
  const deviations = around.map((e) => Math.sqrt(meanOf(e.map((x) => x * x))))
  const inDb = (x: number): number => toDb(Math.max(QUIET, x))
  const modulation = new Modulation(levels.frames, levels.rate)
  return {
    means: Float64Array.from(means, (m) => inDb(m) / COMPRESSED),
    deviations: Float64Array.from(deviations, (d) => Math.max(STILL, inDb(d))),
    correlations: Float64Array.from(
      APART.flatMap((apart) =>
        Array.from({ length: BANDS - apart }, (_, b) => {
          const [x, y] = [around[b] as Float64Array, around[b + apart] as Float64Array]
          const scale = (deviations[b] as number) * (deviations[b + apart] as number)
          return scale > QUIET ? meanOf(x.map((v, i) => v * (y[i] as number))) / scale : 0
        }),
      ),
    ),
    modulation: Float64Array.from(around.flatMap((e) => modulation.of(e))),
  }
}

/** Mean absolute differences of each kind, in dB; correlations as they are. */
export const textureParts = (a: Texture, b: Texture): { readonly [K in keyof Texture]: number } => ({
  means: apart(a.means, b.means),
  deviations: apart(a.deviations, b.deviations),
  correlations: apart(a.correlations, b.correlations),
  modulation: apart(a.modulation, b.modulation),
})

const apart = (a: Float64Array, b: Float64Array): number =>
  a.reduce((sum, x, i) => sum + Math.abs(x - (b[i] as number)), 0) / a.length

const meanOf = (x: Float64Array): number => x.reduce((sum, v) => sum + v, 0) / Math.max(1, x.length)

/** Compressed amplitude of a band, frame by frame. */
function envelopeOf({ frames, levels }: MelLevels, band: number): Float64Array {
  return Float64Array.from({ length: frames }, (_, f) => {
    let power = 0
    for (const side of [0, MEL_BANDS])
      for (const b of [2 * band, 2 * band + 1]) power += exp2(levels[f * 2 * MEL_BANDS + side + b] / TEN_LOG)
    return pow(power / 4, COMPRESSED / 2)
  })
}

/** dB of power in one octave of it. */
const TEN_LOG = 10 / log2(10)

/** Spectrum of an envelope in bands of octaves. */
class Modulation {
  private readonly fft: Fft
  private readonly window: Float64Array

  constructor(
    frames: number,
    private readonly rate: number,
  ) {
    let size = 64
    while (size < frames) size *= 2
    this.fft = new Fft(size)
    this.window = Float64Array.from({ length: frames }, (_, i) => 1 - cosCycles((i + 0.5) / frames))
  }

  of(envelope: Float64Array): number[] {
    const { fft, window, rate } = this
    const { size } = fft
    const re = new Float64Array(size)
    const im = new Float64Array(size)
    for (const [i, x] of envelope.entries()) re[i] = x * (window[i] as number)
    fft.forward(re, im)
    const octaves = log2(FASTEST / SLOWEST)
    return Array.from({ length: MODULATION_BANDS }, (_, m) => {
      const edge = (k: number): number => (SLOWEST * exp2((octaves * k) / MODULATION_BANDS) * size) / rate
      let power = 0
      for (let k = Math.ceil(edge(m)); k < Math.min(size / 2, edge(m + 1)); k++)
        power += (re[k] as number) ** 2 + (im[k] as number) ** 2
      // twice for the mirror image; the window’s mean square is 3/2
      const depth = (2 * power) / (1.5 * size * envelope.length)
      return Math.max(STILL, toDb(Math.max(QUIET, depth)) / 2)
    })
  }
}
