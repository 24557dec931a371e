import { Fft } from '../dsp/fft'
import { TONE_FRAMES } from './signals'

const fft = new Fft(TONE_FRAMES)
const re = new Float64Array(TONE_FRAMES)
const im = new Float64Array(TONE_FRAMES)

/**
 * Peak of the sine at each whole number of cycles over {@link TONE_FRAMES} frames from a frame on. No window
 * is needed: test tones have whole numbers of cycles.
 * @param into half of {@link TONE_FRAMES} numbers
 */
export function toneSpectrum(
  sound: Float32Array,
  from: number,
  into = new Float64Array(TONE_FRAMES / 2),
): Float64Array {
  for (let i = 0; i < TONE_FRAMES; i++) re[i] = sound[from + i]
  im.fill(0)
  fft.forward(re, im)
  into[0] = Math.abs(re[0]) / TONE_FRAMES
  for (let k = 1; k < into.length; k++) into[k] = (2 * Math.sqrt(re[k] * re[k] + im[k] * im[k])) / TONE_FRAMES
  return into
}
