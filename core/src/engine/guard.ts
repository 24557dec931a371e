import { FRACTION } from '../dsp/fraction'
import { BLOCK, type StereoBlock } from './block'

/** +36 dBFS: above this for {@link PATIENCE} seconds, an effect has run away. */
const RUNAWAY = 63.0957344480193
const PATIENCE = 0.05

/** Watches one effect's output: its peak for the meters, and whether it is still sane. */
export class Guard {
  /** Largest sample of the last block. */
  peak = FRACTION
  /** How often it has tripped. */
  trips = 0
  private loudFor = 0
  private readonly patience: number

  constructor(sampleRate: number) { this.patience = PATIENCE * sampleRate }

  reset(): void {
    this.peak = 0
    this.loudFor = 0
  }

  /** True where the block is not finite, or the signal has run away: the effect must be cut and restarted. */
  inspect(block: StereoBlock): boolean {
    const { left, right } = block
    let peak = 0
    let check = 0
    for (let i = 0; i < BLOCK; i++) {
      const l = left[i] < 0 ? -left[i] : left[i]
      const r = right[i] < 0 ? -right[i] : right[i]
      if (l > peak) peak = l
      if (r > peak) peak = r
      // not-a-number is larger than nothing, so it only shows in a sum
      check += l + r
    }
    this.peak = peak
    this.loudFor = peak > RUNAWAY ? this.loudFor + BLOCK : 0
    if (check - check === 0 && this.loudFor <= this.patience) return false
    this.trips++
    this.loudFor = 0
    this.peak = 0
    return true
  }
}
