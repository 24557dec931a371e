import { BLOCK } from '../contract/block'
import type { Step } from './step'

/** Milliseconds, as finely as the host can tell them. */
export type Clock = () => number

/**
 * What each step costs, as a share of one core. One step of each block is timed, all in turn, so that looking
 * on costs two readings of the clock a block. A reading that the host has spoilt by taking the processor away
 * counts for little.
 */
export class StepCosts {
  private order: readonly Step[] = []
  private shares: Float64Array = new Float64Array(0)
  private slots: Int32Array = new Int32Array(0)
  private turn = 0
  private readonly slotMs: number

  constructor(
    private readonly clock: Clock,
    sampleRate: number,
  ) {
    this.slotMs = (BLOCK / sampleRate) * 1000
  }

  /**
   * Takes the steps that run from now on, and where among the live values the cost of each stands; allocates.
   */
  follow(order: readonly Step[], slots: Int32Array): void {
    const known = new Map(this.order.map((step, i) => [step, this.shares[i]]))
    this.shares = Float64Array.from(order, (step) => known.get(step) ?? NaN)
    this.order = order
    this.slots = slots
    this.turn = 0
  }

  /** Runs the steps; writes the cost of the one that is timed. */
  run(order: readonly Step[], values: Float32Array): void {
    const at = order === this.order && order.length > 0 ? this.turn : -1
    for (let i = 0; i < order.length; i++) {
      if (i !== at) {
        order[i].run()
        continue
      }
      const start = this.clock()
      order[i].run()
      const share = (this.clock() - start) / this.slotMs
      const known = this.shares[i]
      this.shares[i] = known === known ? known + 0.15 * Math.min(share - known, known + 0.001) : share
      if (this.slots[i] >= 0) values[this.slots[i]] = this.shares[i]
    }
    this.turn = at + 1 < order.length ? at + 1 : 0
  }
}
