import { FRACTION } from './fraction'
import { TRUE_PEAK_PHASES as PHASES, TRUE_PEAK_TAPS as TAPS, truePeakTable as table } from './true-peak-table'

/** No interpolated value is larger than this times the largest sample around it: the sum of a row's magnitudes, rounded up. */
const MOST_GAIN = 2.2

/** Largest value between the samples too, by 4-fold interpolation (ITU-R BS.1770-4, annex 2). One channel. */
export class TruePeakMeter {
  private readonly history = new Float64Array(2 * TAPS)
  private at = 0
  /** Linear; largest since the last reset. */
  peak = FRACTION

  reset(): void {
    this.history.fill(0)
    this.at = 0
    this.peak = 0
  }

  process(signal: Float32Array): void {
    const { history } = this
    let peak = this.peak
    let largest = 0
    for (let i = 0; i < history.length; i++) if (history[i] > largest || -history[i] > largest) largest = Math.abs(history[i])
    for (let i = 0; i < signal.length; i++) if (signal[i] > largest || -signal[i] > largest) largest = Math.abs(signal[i])
    // most of the time nothing here can be a new peak, and only the last samples have to be known for the next block
    const quiet = largest * MOST_GAIN <= peak
    for (let i = quiet ? Math.max(0, signal.length - TAPS) : 0; i < signal.length; i++) {
      history[this.at] = history[this.at + TAPS] = signal[i]
      this.at = this.at + 1 === TAPS ? 0 : this.at + 1
      if (quiet) continue
      for (let p = 0; p < PHASES; p++) {
        let sum = 0
        const row = p * TAPS
        for (let k = 0; k < TAPS; k++) sum += table[row + k] * history[this.at + k]
        if (sum < 0) sum = -sum
        if (sum > peak) peak = sum
      }
    }
    this.peak = peak
  }
}
