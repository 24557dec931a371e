import type { Stereo } from '../contract/audio'
import { Fft } from '../dsp/fft'
import { cosCycles, exp2, log2, toDb } from '../dsp/math'
import { LoudnessMeter } from '../dsp/loudness'
import { TruePeakMeter } from '../dsp/true-peak'

/** Loudness, spectrum and movement of a stretch of sound. */
export interface SoundFigures {
  /** Integrated loudness in LUFS (ITU-R BS.1770-4); −120 for silence. */
  readonly loudness: number
  /** True peak in dBTP; −Infinity for silence. */
  readonly truePeak: number
  /** Spectral centroid in Hz: the mean frequency, weighted by power. 0 for silence. */
  readonly brightness: number
  /**
   * Level changes between 0.5 and 20 Hz in dB of the mean level of each band: 0 is a full swing. −80 where
   * nothing moves.
   */
  readonly movement: number
  /** Level of the sides in dB of the middle, −40…40. */
  readonly width: number
  /** Peak in dB of the mean level. */
  readonly crest: number
  /** The quietest tenth of the sound in dB of its mean level: how far gaps are filled. */
  readonly fill: number
}

const SIZE = 2048
const HOP = 512
/** Bands on a scale of octaves from the lowest. */
export const BANDS = 48
const LOWEST = 30
const HIGHEST = 18_000
const QUIET = 1e-12

/** Power of a sound by band and frame, and by bin. */
export interface Frames {
  readonly count: number
  /** Frames in a second. */
  readonly rate: number
  /** {@link BANDS} powers for each frame, from low to high. */
  readonly bands: Float64Array
  /** Mean power by bin of an FFT of 2048, and the width of a bin in Hz. */
  readonly bins: Float64Array
  readonly binHz: number
}

const decibel = (power: number): number => toDb(Math.max(QUIET * QUIET, power)) / 2
const within = (x: number, least: number, most: number): number => Math.min(most, Math.max(least, x))

/** Splits a sound into overlapping windows of 2048 samples (Hann) and bands of equal width in octaves. */
export function framesOf([left, right]: Stereo, sampleRate: number): Frames {
  const count = Math.max(0, Math.floor((left.length - SIZE) / HOP) + 1)
  const bands = new Float64Array(count * BANDS)
  const bins = new Float64Array(SIZE / 2)
  const binHz = sampleRate / SIZE
  const fft = new Fft(SIZE)
  const window = Float64Array.from({ length: SIZE }, (_, i) => 0.5 - 0.5 * cosCycles(i / SIZE))
  const bandOf = Int16Array.from({ length: SIZE / 2 }, (_, i) =>
    i * binHz < LOWEST || i * binHz >= HIGHEST
      ? -1
      : Math.floor((BANDS * log2((i * binHz) / LOWEST)) / log2(HIGHEST / LOWEST)),
  )
  const re = new Float64Array(SIZE)
  const im = new Float64Array(SIZE)
  for (let f = 0; f < count; f++) {
    // both sides in one transform: their powers together are half of those at a bin and at its mirror image
    for (let i = 0; i < SIZE; i++) {
      re[i] = left[f * HOP + i] * window[i]
      im[i] = right[f * HOP + i] * window[i]
    }
    fft.forward(re, im)
    for (let i = 1; i < SIZE / 2; i++) {
      const power = (re[i] ** 2 + im[i] ** 2 + re[SIZE - i] ** 2 + im[SIZE - i] ** 2) / 2
      bins[i] += power / count
      if (bandOf[i] >= 0) bands[f * BANDS + bandOf[i]] += power
    }
  }
  return { count, rate: sampleRate / HOP, bands, bins, binHz }
}

/** Energy between two frequencies in dB of the whole. */
export function share({ bins, binHz }: Frames, from: number, to: number): number {
  let part = 0
  let all = 0
  bins.forEach((power, i) => {
    all += power
    if (i * binHz >= from && i * binHz < to) part += power
  })
  return decibel(part / Math.max(QUIET, all))
}

/**
 * Mean difference of two sounds by band in dB, each at its own mean level.
 * Bands that are faint in both are left out.
 */
export function unlike(a: Frames, b: Frames): number {
  const levels = [a, b].map((frames) => {
    const mean = new Float64Array(BANDS)
    frames.bands.forEach((power, i) => (mean[i % BANDS] += power / Math.max(1, frames.count)))
    const all = mean.reduce((sum, x) => sum + x, 0)
    return Array.from(mean, (x) => Math.max(-60, decibel(x / Math.max(QUIET, all))))
  })
  const [first, second] = levels as [number[], number[]]
  const heard = first.map((_, i) => i).filter((i) => Math.max(first[i], second[i]) > -45)
  return heard.reduce((sum, i) => sum + Math.abs(first[i] - second[i]), 0) / Math.max(1, heard.length)
}

/** Centroid in Hz. */
function centroid({ bins, binHz }: Frames): number {
  let power = 0
  let weighted = 0
  bins.forEach((p, i) => {
    power += p
    weighted += p * i * binHz
  })
  return power > QUIET ? weighted / power : 0
}

/** Energy of the level's changes between 0.5 and 20 Hz, by band, in dB of the level's own. */
function movement({ count, rate, bands }: Frames): number {
  if (count < 8) return -80
  const size = exp2(Math.ceil(log2(count)))
  const fft = new Fft(size)
  const re = new Float64Array(size)
  const im = new Float64Array(size)
  let moving = 0
  let all = 0
  for (let b = 0; b < BANDS; b++) {
    let mean = 0
    for (let f = 0; f < count; f++) mean += Math.sqrt(bands[f * BANDS + b]) / count
    re.fill(0)
    im.fill(0)
    for (let f = 0; f < count; f++) re[f] = Math.sqrt(bands[f * BANDS + b]) - mean
    fft.forward(re, im)
    for (let i = 1; i < size / 2; i++) {
      const hz = (i * rate) / size
      if (hz >= 0.5 && hz <= 20) moving += (2 * (re[i] ** 2 + im[i] ** 2)) / size / count
    }
    all += mean * mean
  }
  return all > QUIET ? within(decibel((2 * moving) / all), -80, 40) : -80
}

/** Mean levels of stretches of 46 ms, in dB, from the quietest. */
function levelsOf([left, right]: Stereo): number[] {
  const levels: number[] = []
  for (let at = 0; at + SIZE <= left.length; at += SIZE) {
    let power = 0
    for (let i = at; i < at + SIZE; i++) power += left[i] ** 2 + right[i] ** 2
    levels.push(decibel(power / SIZE / 2))
  }
  return levels.sort((a, b) => a - b)
}

/** True peak of both sides in dBTP; −Infinity for silence. */
export function truePeakOf([left, right]: Stereo): number {
  const meters = [new TruePeakMeter(), new TruePeakMeter()] as const
  meters[0].process(left)
  meters[1].process(right)
  const highest = Math.max(meters[0].peak, meters[1].peak)
  return highest > 0 ? toDb(highest) : -Infinity
}

/** Measures a stretch of stereo sound. */
export function soundFigures(
  sound: Stereo,
  sampleRate: number,
  frames = framesOf(sound, sampleRate),
): SoundFigures {
  const [left, right] = sound
  const meter = new LoudnessMeter(sampleRate)
  meter.process(left, right)
  let middle = 0
  let sides = 0
  let power = 0
  let peak = 0
  for (let i = 0; i < left.length; i++) {
    const l = left[i]
    const r = right[i]
    middle += (l + r) ** 2
    sides += (l - r) ** 2
    power += (l * l + r * r) / 2
    peak = Math.max(peak, Math.abs(l), Math.abs(r))
  }
  const mean = decibel(power / Math.max(1, left.length))
  const levels = levelsOf(sound)
  return {
    loudness: meter.integrated,
    truePeak: truePeakOf(sound),
    brightness: centroid(frames),
    movement: movement(frames),
    width: within(decibel(sides / Math.max(QUIET, middle)), -40, 40),
    crest: peak > 0 ? decibel(peak * peak) - mean : 0,
    fill: within((levels[Math.floor(levels.length / 10)] ?? -120) - mean, -60, 0),
  }
}
