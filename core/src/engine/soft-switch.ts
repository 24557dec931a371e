import { FRACTION } from '../dsp/fraction'

/** Blocks that switching on or off takes: long enough to add no step above −60 dBFS to usual material. */
const SWITCH_BLOCKS = 6

/** Goes between off (0) and on (1) with soft ends. */
export class Switch {
  private at = 0
  /** Weights at the two ends of the present block. */
  start = FRACTION
  end = FRACTION

  jump(on: boolean): void {
    this.at = on ? SWITCH_BLOCKS : 0
    this.start = this.end = on ? 1 : 0
  }

  move(on: boolean): void {
    this.at = Math.max(0, Math.min(SWITCH_BLOCKS, this.at + (on ? 1 : -1)))
    const x = this.at / SWITCH_BLOCKS
    this.start = this.end
    this.end = x * x * (3 - 2 * x)
  }
}
