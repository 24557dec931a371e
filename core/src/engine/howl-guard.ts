import { FRACTION } from '../dsp/fraction'
import { fromDb } from '../dsp/math'
import { BLOCK, type StereoBlock, peakOf } from '../contract/block'

/** Blocks of one look at the levels: 27 ms at 48 kHz, longer than most ways round. */
const WINDOW = 10
/** A howl grows by at least this factor between checks, this many times in a row, to this level. */
const GROWS = 1.12
const ROWS = 10
const LOUD = 0.08
/** Or it is at full level for this many checks. */
const FULL = 0.7
const FULL_ROWS = 18
/** How far the level is dipped, over how many blocks, for how many, and over how many it comes back. */
const DIP = fromDb(-24)
const DOWN = 8
const HOLD = 600
const UP = 400

/**
 * Watches what comes in beside what goes out while a live input is heard. Where both grow together without a
 * fall, or stay at full level, the output feeds back into the input: the output is lowered until
 * that has died away (after Waterschoot & Moonen, "Fifty years of acoustic feedback control", Proc. IEEE
 * 2011: detection by growth, correction by gain).
 */
export class HowlGuard {
  /** Times that it has dipped. */
  trips = 0
  private in = FRACTION
  private out = FRACTION
  private before = FRACTION
  private blocks = 0
  private rows = 0
  private full = 0
  /** Blocks since the last trip; beyond all stages for none. */
  private since = 1e6
  gain = FRACTION

  constructor() {
    this.reset()
  }

  reset(): void {
    this.in = this.out = this.before = 0
    this.blocks = this.rows = this.full = 0
    this.since = 1e6
    this.gain = 1
  }

  /** Looks at a block, and dips what goes out where it must. */
  process(input: StereoBlock, output: StereoBlock): void {
    const came = peakOf(input)
    const goes = peakOf(output)
    if (came > this.in) this.in = came
    if (goes > this.out) this.out = goes
    if (++this.blocks === WINDOW) this.look()
    const from = this.gain
    this.since++
    const { since } = this
    this.gain =
      since <= DOWN
        ? 1 + ((DIP - 1) * since) / DOWN
        : since <= HOLD
          ? DIP
          : since <= HOLD + UP
            ? DIP + ((1 - DIP) * (since - HOLD)) / UP
            : 1
    if (from === 1 && this.gain === 1) return
    const step = (this.gain - from) / BLOCK
    for (let i = 0; i < BLOCK; i++) {
      const g = from + step * (i + 1)
      output.left[i] *= g
      output.right[i] *= g
    }
  }

  private look(): void {
    const level = Math.min(this.in, this.out)
    // there is feedback only while both sides sound
    this.rows = level > GROWS * this.before && level > 0.001 ? this.rows + 1 : 0
    this.full = this.in > FULL && this.out > FULL ? this.full + 1 : 0
    if (this.since > HOLD && ((this.rows >= ROWS && level > LOUD) || this.full >= FULL_ROWS)) {
      this.trips++
      this.since = 0
      this.rows = this.full = 0
    }
    this.before = level
    this.in = this.out = 0
    this.blocks = 0
  }
}
