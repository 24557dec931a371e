import { Fft } from '../dsp/fft'
import { toDb } from '../dsp/math'
import { TONE_FRAMES, type Tone, tones } from './signals'
import type { Through } from './through'

const fft = new Fft(TONE_FRAMES)
const re = new Float64Array(TONE_FRAMES)
const im = new Float64Array(TONE_FRAMES)

/** Least level in dB that spectra of tones are read down to. */
export const TONE_FLOOR = -150

/** A ratio in dB, no lower than {@link TONE_FLOOR}. */
export const ratioDb = (x: number): number => Math.max(TONE_FLOOR, toDb(Math.max(1e-12, x)))

/**
 * Peak of the sine at each whole number of cycles over {@link TONE_FRAMES} frames from a frame on. No window
 * is needed: test tones have whole numbers of cycles.
 */
export function toneSpectrum(sound: Float32Array, from: number): Float64Array {
  for (let i = 0; i < TONE_FRAMES; i++) re[i] = sound[from + i]
  im.fill(0)
  fft.forward(re, im)
  const peaks = new Float64Array(TONE_FRAMES / 2)
  peaks[0] = Math.abs(re[0]) / TONE_FRAMES
  for (let k = 1; k < peaks.length; k++)
    peaks[k] = (2 * Math.sqrt(re[k] * re[k] + im[k] * im[k])) / TONE_FRAMES
  return peaks
}

/**
 * Spectra of tones that are played one after the other, left side. Each is held twice as long as it is
 * measured, so that the change before it has died away.
 * @param list tones that sound together, for each stretch
 */
export function heldSpectra(through: Through, list: readonly (readonly Tone[])[]): Float64Array[] {
  const [heard] = through.run(tones(list, 2 * TONE_FRAMES, through.sampleRate))
  return list.map((_, i) => toneSpectrum(heard, (2 * i + 1) * TONE_FRAMES))
}
