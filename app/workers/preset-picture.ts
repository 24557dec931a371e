import { bandLevels } from '@oleaje/core/analysis/band-levels'
import { Spectrum } from '@oleaje/core/analysis/spectrum'

/** Seconds of sound in a small picture. */
export const PICTURED_SECONDS = 2
/** Places of the picture along time and along frequency. */
const PLACES = 160
const WINDOW = 4096

/** A sound for a small picture: peaks over time, and mean levels by band in dB of a full-scale sine. */
export interface PicturedSound {
  readonly peaks: Float32Array
  readonly bands: Float32Array
}

/** The peaks of both channels over time, and the mean spectrum of the left one. */
export function pictureOf(
  channels: readonly [Float32Array, Float32Array],
  sampleRate: number,
): PicturedSound {
  const [left, right] = channels
  const peaks = new Float32Array(PLACES)
  for (let i = 0; i < left.length; i++) {
    const at = Math.floor((i / left.length) * PLACES)
    peaks[at] = Math.max(peaks[at] ?? 0, Math.abs(left[i] ?? 0), Math.abs(right[i] ?? 0))
  }
  const spectrum = new Spectrum(WINDOW)
  const power = new Float64Array(WINDOW / 2)
  let windows = 0
  for (let end = WINDOW; end <= left.length; end += WINDOW / 2, windows++)
    spectrum.ofRing(left, end).forEach((m, i) => {
      power[i] = (power[i] ?? 0) + m * m
    })
  const bands = new Float32Array(PLACES)
  bandLevels(
    power.map((p) => Math.sqrt(p / Math.max(1, windows))),
    sampleRate,
    { smoothing: 1 / 6, tilt: 3 },
    bands,
  )
  return { peaks, bands }
}
