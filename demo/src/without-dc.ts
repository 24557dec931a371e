import { poleFor } from '@oleaje/core/dsp/math'
import { RATE } from './voices'

/** Corner of the high-pass in Hz: an octave and more below the lowest note. */
const CORNER = 12

/**
 * A loop without its DC: a first-order high-pass that runs round the loop twice, so that what comes out of
 * the end goes on at the start. What is left of a mean is taken off.
 */
export function withoutDc(loop: Float32Array): Float32Array {
  const pole = poleFor(1 / (2 * Math.PI * CORNER), RATE)
  const out = new Float64Array(loop.length)
  let x1 = loop[loop.length - 1] ?? 0
  let y = 0
  for (let round = 0; round < 2; round++) {
    for (let i = 0; i < loop.length; i++) {
      const x = loop[i] ?? 0
      y = x - x1 + pole * y
      x1 = x
      out[i] = y
    }
  }
  const mean = out.reduce((sum, v) => sum + v, 0) / out.length
  return Float32Array.from(out, (v) => v - mean)
}
