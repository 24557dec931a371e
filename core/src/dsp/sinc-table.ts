import { PI, sinCycles } from './math'

/** Taps of one interpolation, and how many places between two samples are tabulated. */
export const SINC_TAPS = 8
export const SINC_PHASES = 1024

/**
 * Modified Bessel function of the first kind, order 0, by its power series (converges fast for Kaiser's
 * arguments).
 */
export function besselI0(x: number): number {
  const q = (x * x) / 4
  let term = 1
  let sum = 1
  for (let k = 1; k < 60; k++) {
    term *= q / (k * k)
    sum += term
    if (term < sum * 1e-17) break
  }
  return sum
}

/** Kaiser window (Kaiser 1974) at t in −1…1. */
export function kaiser(t: number, beta: number): number {
  if (t <= -1 || t >= 1) return 0
  if (beta !== lastBeta) {
    lastBeta = beta
    lastPeak = besselI0(beta)
  }
  return besselI0(beta * Math.sqrt(1 - t * t)) / lastPeak
}
// windows are made point after point of one shape
let lastBeta = NaN
let lastPeak = 1

/** sin(πx)/(πx). */
export const sinc = (x: number): number => (Math.abs(x) < 1e-9 ? 1 : sinCycles(x / 2) / (PI * x))

/**
 * Interpolation kernels: row p holds the 8 weights that read p / 1024 of a sample after the fourth tap.
 * A windowed sinc (Smith, Digital Audio Resampling, 1984), each row normalised to unit gain at DC.
 */
export const sincTable: Float64Array = buildTable()
/** The same for samples that are kept in single precision. */
export const sincTable32 = Float32Array.from(sincTable)

function buildTable(): Float64Array {
  const table = new Float64Array((SINC_PHASES + 1) * SINC_TAPS)
  const half = SINC_TAPS / 2
  for (let p = 0; p <= SINC_PHASES; p++) {
    const row = p * SINC_TAPS
    let sum = 0
    for (let k = 0; k < SINC_TAPS; k++) {
      const x = k - (half - 1) - p / SINC_PHASES
      const w = sinc(x) * kaiser(x / half, 6.5)
      table[row + k] = w
      sum += w
    }
    for (let k = 0; k < SINC_TAPS; k++) table[row + k] /= sum
  }
  for (let k = 0; k < SINC_TAPS; k++) {
    table[k] = k === half - 1 ? 1 : 0
    table[SINC_PHASES * SINC_TAPS + k] = k === half ? 1 : 0
  }
  return table
}

const { fround } = Math

/**
 * A sample between samples, in single precision: the row that begins at `row` of {@link sincTable32} over
 * eight samples from `at` on. In the order in which a SIMD kernel adds them up, four at a time.
 */
export function sincAt(table: Float32Array, row: number, x: Float32Array, at: number): number {
  const s0 = fround(fround(table[row] * x[at]) + fround(table[row + 4] * x[at + 4]))
  const s1 = fround(fround(table[row + 1] * x[at + 1]) + fround(table[row + 5] * x[at + 5]))
  const s2 = fround(fround(table[row + 2] * x[at + 2]) + fround(table[row + 6] * x[at + 6]))
  const s3 = fround(fround(table[row + 3] * x[at + 3]) + fround(table[row + 7] * x[at + 7]))
  return fround(fround(s0 + s2) + fround(s1 + s3))
}
