import { sineOf } from './sines'

/**
 * Turns a block of phases in cycles into how far a delay swings about its middle, −1…1, in place: a sine or a
 * triangle that begins in the middle going up.
 */
export function swingBlock(shape: number, x: Float64Array): void {
  if (shape === 0) for (let i = 0; i < x.length; i++) x[i] = sineOf(x[i])
  else
    for (let i = 0; i < x.length; i++) {
      const t = x[i] + 0.25 - Math.floor(x[i] + 0.25)
      x[i] = t < 0.5 ? 4 * t - 1 : 3 - 4 * t
    }
}
