import { exp2, log2, toDb } from '../dsp/math'

/** The lowest and the highest frequency of a picture of a spectrum, in Hz. */
export const LOWEST = 30
export const HIGHEST = 18_000

/**
 * How a spectrum is read: width of smoothing in octaves, 0 for none; slope by which it is lifted, in dB an
 * octave about 1 kHz.
 */
export interface Reading {
  readonly smoothing: number
  readonly tilt: number
}

/** Frequency of a band of a picture, by its middle. */
export const bandFrequency = (band: number, bands: number): number =>
  LOWEST * exp2(((band + 0.5) / bands) * log2(HIGHEST / LOWEST))

/**
 * Levels of a spectrum in bands that are even in octaves, in dB of a full-scale sine. Without smoothing a
 * band shows its largest line, so that a tone shows its own level however wide the band; with it, the mean
 * power over that part of an octave about its middle.
 * @param magnitude of the lower half of a transform of `2 · magnitude.length` frames
 */
export function bandLevels(
  magnitude: Float64Array,
  sampleRate: number,
  { smoothing, tilt }: Reading,
  into: Float32Array,
): void {
  const perHz = (2 * magnitude.length) / sampleRate
  const bands = into.length
  const half = (0.5 * log2(HIGHEST / LOWEST)) / bands
  for (let b = 0; b < bands; b++) {
    const hz = bandFrequency(b, bands)
    const reach = exp2(Math.max(half, smoothing / 2))
    const from = (hz / reach) * perHz,
      to = Math.max(from + 1, hz * reach * perHz)
    let most = 0
    let power = 0
    let count = 0
    for (let i = Math.floor(from); i < to && i < magnitude.length; i++) {
      const m = magnitude[i]
      power += m * m
      count++
      if (m > most) most = m
    }
    // where a band is narrower than the lines lie apart, between the two next to its middle
    const at = Math.floor(hz * perHz)
    if (to - (hz / reach) * perHz <= 1.0001 && smoothing === 0)
      most = magnitude[at] + (hz * perHz - at) * (magnitude[at + 1] - magnitude[at])
    const level = smoothing > 0 ? Math.sqrt(power / Math.max(1, count)) : most
    into[b] = toDb(level + 1e-7) + tilt * log2(hz / 1000)
  }
}

/** Levels that rise at once and fall at a steady rate, and the highest so far. */
export class HeldLevels {
  readonly now: Float32Array
  readonly highest: Float32Array

  constructor(bands: number) {
    this.now = new Float32Array(bands).fill(-140)
    this.highest = new Float32Array(bands).fill(-140)
  }

  /** @param fall in dB since the last time */
  take(levels: Float32Array, fall: number): void {
    for (let b = 0; b < levels.length; b++) {
      this.now[b] = Math.max(levels[b], this.now[b] - fall)
      this.highest[b] = Math.max(levels[b], this.highest[b])
    }
  }

  forget(): void {
    this.highest.fill(-140)
  }
}
