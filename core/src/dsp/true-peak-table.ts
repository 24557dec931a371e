import { kaiser, sinc } from './sinc-table'

export const TRUE_PEAK_TAPS = 12
export const TRUE_PEAK_PHASES = 4

/**
 * Weights of the four places between two samples at which peaks are looked for (ITU-R BS.1770-4, annex 2): row p reads
 * p/4 of a sample after its sixth tap. Each row has unit gain at DC.
 */
export const truePeakTable: Float64Array = (() => {
  const t = new Float64Array(TRUE_PEAK_TAPS * TRUE_PEAK_PHASES)
  for (let p = 0; p < TRUE_PEAK_PHASES; p++) {
    let sum = 0
    for (let k = 0; k < TRUE_PEAK_TAPS; k++) {
      const x = k - (TRUE_PEAK_TAPS / 2 - 1) - p / TRUE_PEAK_PHASES
      t[p * TRUE_PEAK_TAPS + k] = sinc(x) * kaiser(x / (TRUE_PEAK_TAPS / 2), 6)
      sum += t[p * TRUE_PEAK_TAPS + k]
    }
    for (let k = 0; k < TRUE_PEAK_TAPS; k++) t[p * TRUE_PEAK_TAPS + k] /= sum
  }
  return t
})()
