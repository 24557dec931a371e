import { kaiser, sinc } from './sinc-table'

/** Samples on each side of a step that it is smoothed over, which is also how late it comes out. */
export const STEP_HALF = 24
export const STEP_TAPS = 2 * STEP_HALF
/** Places between two samples that are tabulated; in between, rows are mixed straight. */
export const STEP_PHASES = 256

/** Attenuation of 120 dB from 28 kHz on, level to 20 kHz, at 48 kHz, by Kaiser's formula. */
const BETA = 12

const impulse = (x: number): number => sinc(x) * kaiser(x / STEP_HALF, BETA)

/**
 * Row p: the weights that read a signal p/256 of a sample before the middle of 48 samples, oldest first.
 * Windowed sinc (Smith, Digital Audio Resampling, 1984), each row of unit gain at rest.
 */
export const impulseRows = new Float64Array((STEP_PHASES + 1) * STEP_TAPS)

/**
 * Row p: what a band-limited step has more than a hard one, in the 48 samples from p/256 after 24 samples before it
 * (Brandt, "Hard sync without aliasing", ICMC 2001; here with linear phase).
 */
export const stepRows = new Float64Array((STEP_PHASES + 1) * STEP_TAPS)

fill()

function fill(): void {
  const points = STEP_TAPS * STEP_PHASES
  // area under the impulse up to each tabulated place, by Simpson's rule
  const area = new Float64Array(points + 1)
  let before = 0
  for (let i = 0; i < points; i++) {
    const x = i / STEP_PHASES - STEP_HALF
    const after = impulse(x + 1 / STEP_PHASES)
    area[i + 1] = area[i] + (before + 4 * impulse(x + 0.5 / STEP_PHASES) + after) / (6 * STEP_PHASES)
    before = after
  }
  for (let p = 0; p <= STEP_PHASES; p++) {
    const row = p * STEP_TAPS
    let sum = 0
    for (let k = 0; k < STEP_TAPS; k++) {
      const w = impulse(k - STEP_HALF + p / STEP_PHASES)
      impulseRows[row + k] = w
      sum += w
      stepRows[row + k] = area[Math.min(points, k * STEP_PHASES + p)] / area[points] - (k >= STEP_HALF ? 1 : 0)
    }
    for (let k = 0; k < STEP_TAPS; k++) impulseRows[row + k] /= sum
  }
}
