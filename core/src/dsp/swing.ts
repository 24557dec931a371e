import { sineOf } from './sines'

/** How a delay swings about its middle at a phase in cycles, −1…1: a sine or a triangle that begins in the middle going up. */
export function swing(shape: number, phase: number): number {
  if (shape === 0) return sineOf(phase)
  const x = phase + 0.25 - Math.floor(phase + 0.25)
  return x < 0.5 ? 4 * x - 1 : 3 - 4 * x
}
