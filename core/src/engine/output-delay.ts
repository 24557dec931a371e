import { BLOCK, ParamBlock } from '../contract/block'

/** Delays a modulator's output, so that it is aligned with sound behind latency. */
export class OutputDelay {
  readonly out = new ParamBlock(0)
  private readonly ring: Float64Array
  private head = 0
  /** Frames for which everything in the ring has been this one value. */
  private steady = 0
  private lastValue = NaN
  /**
   * How it begins: made while playing, with what would have come before; from a reset, with the first value,
   * as what follows it (a slew) begins there without a delay as well.
   */
  private begins: 'before' | 'first' | null = 'before'

  constructor(readonly frames: number) {
    this.ring = new Float64Array(frames)
  }

  reset(): void {
    this.begins = 'first'
    this.head = 0
    this.steady = 0
    this.lastValue = NaN
  }

  /**
   * Fills the ring with the way back that the first block tells, within 0…1 as every output of a modulator.
   */
  private prime(input: ParamBlock): void {
    const { ring, frames } = this
    if (input.constant || this.begins === 'first') {
      ring.fill(input.constant ? input.value : input.buffer[0])
      return
    }
    const x = input.buffer
    const slope = x[1] - x[0]
    for (let k = 0; k < frames; k++) ring[frames - 1 - k] = Math.min(1, Math.max(0, x[0] - slope * (k + 1)))
  }

  process(input: ParamBlock): void {
    if (this.begins) {
      this.prime(input)
      this.begins = null
    }
    if (input.constant && input.value === this.lastValue) this.steady += BLOCK
    else this.steady = input.constant ? BLOCK : 0
    this.lastValue = input.constant ? input.value : NaN
    if (this.steady > this.frames + BLOCK) {
      this.out.hold(input.value)
      return
    }
    const x = input.values()
    const y = this.out.buffer
    for (let i = 0; i < BLOCK; i++) {
      y[i] = this.ring[this.head]
      this.ring[this.head] = x[i]
      if (++this.head === this.frames) this.head = 0
    }
    this.out.move()
  }
}
