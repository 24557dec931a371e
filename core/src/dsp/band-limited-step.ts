import { kaiser, sinc } from './sinc-table'

/** Samples on each side of a step that it is smoothed over, which is also how late it comes out. */
export const STEP_HALF = 24
export const STEP_TAPS = 2 * STEP_HALF
/** Places between two samples that are tabulated; in between, rows are mixed straight. */
export const STEP_PHASES = 256

/** Attenuation of 120 dB from 28 kHz on, level to 20 kHz, at 48 kHz, by Kaiser's formula. */
const BETA = 12

export interface StepTables {
  /**
   * Row p: the weights that read a signal p/256 of a sample before the middle of 48 samples, oldest first.
   * Windowed sinc (Smith, Digital Audio Resampling, 1984), each row of unit gain at rest.
   */
  readonly impulseRows: Float64Array
  /**
   * Row p: what a band-limited step has more than a hard one, in the 48 samples from p/256 after 24 samples
   * before it (Brandt, "Hard sync without aliasing", ICMC 2001; here with linear phase).
   */
  readonly stepRows: Float64Array
}

let made: StepTables | null = null

/**
 * The tables, made when they are first asked for: some 20 ms of cold code, which a page that only shows
 * effects never needs.
 */
export const stepTables = (): StepTables => (made ??= make())

function make(): StepTables {
  const points = STEP_TAPS * STEP_PHASES
  // the impulse at each tabulated place, one side being the other turned round
  const shape = new Float64Array(points + 1)
  for (let i = 0; i <= points / 2; i++) {
    const x = i / STEP_PHASES - STEP_HALF
    shape[i] = shape[points - i] = sinc(x) * kaiser(x / STEP_HALF, BETA)
  }
  // the area under it up to each place, by the cubic through four neighbours
  const area = new Float64Array(points + 1)
  for (let i = 0; i < points; i++)
    area[i + 1] =
      area[i] +
      (13 * (shape[i] + shape[i + 1]) - (shape[i - 1] ?? 0) - (shape[i + 2] ?? 0)) / (24 * STEP_PHASES)
  const impulseRows = new Float64Array((STEP_PHASES + 1) * STEP_TAPS)
  const stepRows = new Float64Array((STEP_PHASES + 1) * STEP_TAPS)
  for (let p = 0; p <= STEP_PHASES; p++) {
    const row = p * STEP_TAPS
    let sum = 0
    for (let k = 0; k < STEP_TAPS; k++) sum += shape[k * STEP_PHASES + p]
    for (let k = 0; k < STEP_TAPS; k++) {
      const at = k * STEP_PHASES + p
      impulseRows[row + k] = shape[at] / sum
      stepRows[row + k] = area[at] / area[points] - (k >= STEP_HALF ? 1 : 0)
    }
  }
  return { impulseRows, stepRows }
}
