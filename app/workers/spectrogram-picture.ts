import { BANDS, type Frames } from '@oleaje/core/analysis/sound-figures'
import { toDb } from '@oleaje/core/dsp/math'

/** Places of a small spectrogram along time. */
export const COLUMNS = 128
/** Levels in dB that are drawn empty and full. */
const FLOOR = -72
const TOP = -6

/** A phrase before and after a chain: {@link BANDS} values 0…255 for each of {@link COLUMNS} columns. */
export interface SpectrogramPair {
  readonly dry: Uint8Array
  readonly wet: Uint8Array
}

/**
 * A small spectrogram: the level of each band over time, in dB of the loudest.
 * @param part how much of the picture’s width the frames take, 0…1
 */
export function spectrogramOf({ count, bands }: Frames, part = 1): Uint8Array {
  const out = new Uint8Array(COLUMNS * BANDS)
  const powers = new Float64Array(COLUMNS * BANDS)
  for (let f = 0; f < count; f++) {
    const at = Math.floor((f * COLUMNS * part) / count) * BANDS
    for (let b = 0; b < BANDS; b++) powers[at + b] = Math.max(powers[at + b] ?? 0, bands[f * BANDS + b] ?? 0)
  }
  const loudest = powers.reduce((most, p) => Math.max(most, p), 1e-20)
  powers.forEach((power, i) => {
    const db = toDb(Math.max(1e-12, power / loudest)) / 2
    out[i] = Math.round(255 * Math.min(1, Math.max(0, (db - FLOOR) / (TOP - FLOOR))))
  })
  return out
}
