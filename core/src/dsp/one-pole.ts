import { FRACTION } from './fraction'
import { LOG2E, TAU, exp, exp2Block } from './math'

/** Weight of a one-pole low-pass with its corner at `cutoff` Hz (impulse invariant). */
export const onePoleWeight = (cutoff: number, sampleRate: number): number =>
  1 - exp((-TAU * cutoff) / sampleRate)

/** The same for a block of corners. */
export function onePoleWeights(cutoffs: Float64Array, sampleRate: number, weights: Float64Array): void {
  for (let i = 0; i < weights.length; i++) weights[i] = ((-TAU * cutoffs[i]) / sampleRate) * LOG2E
  exp2Block(weights)
  for (let i = 0; i < weights.length; i++) weights[i] = 1 - weights[i]
}

/**
 * Removes the mean: y = x − x₁ + r·y₁ (Smith, Introduction to Digital Filters, 2007, DC blocker). Corner near
 * 4 Hz.
 */
export class DcBlocker {
  private x = FRACTION
  private y = FRACTION
  private readonly r: number
  constructor(sampleRate: number) {
    this.r = exp((-TAU * 4) / sampleRate)
  }
  reset(): void {
    this.x = this.y = 0
  }
  process(signal: Float64Array): void {
    let { x, y } = this
    const r = this.r
    for (let i = 0; i < signal.length; i++) {
      const a = signal[i]
      y = a - x + r * y
      x = a
      signal[i] = y
    }
    this.x = x
    this.y = y > 1e-20 || y < -1e-20 ? y : 0
  }
}
