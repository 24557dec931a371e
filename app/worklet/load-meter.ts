import { FRACTION } from '@oleaje/core/dsp/fraction'
import { fixedSlot } from '@oleaje/core/engine/telemetry'

declare const Temporal: { readonly Now: { instant(): { readonly epochNanoseconds: bigint } } } | undefined

// Whole milliseconds give a true mean over many blocks, and reading them allocates nothing.
const coarse = (): number => Date.now()
/**
 * The one clock of this scope that tells microseconds makes an object each time: for measuring, not for
 * always. Null where there is none.
 */
export const fineClock: (() => number) | null =
  typeof Temporal === 'undefined' ? null : () => Number(Temporal.Now.instant().epochNanoseconds) / 1e6

/** Blocks after which the mean forgets. */
const MEAN_BLOCKS = 2000

/** Measures how much of the time of a block its work takes, with the messages that came before it. */
export class LoadMeter {
  private clock = coarse
  private started = FRACTION
  /** Milliseconds that messages have taken since the last block, which the next one has less. */
  private between = FRACTION
  private busy = FRACTION
  private worst = FRACTION
  private measured = 0
  private missed = 0

  /** Restarts with the finest available clock. */
  renew(): void {
    this.clock = fineClock ?? coarse
    this.busy = this.worst = this.measured = this.missed = 0
  }

  /** Runs what a message asks for. @param counts whether a block waits for it */
  message(work: () => void, counts: boolean): void {
    const start = this.clock()
    work()
    // not where the message has exchanged the clock
    const took = this.clock() - start
    if (counts && took < 60_000 && took > -60_000) this.between += took
  }

  begin(): void {
    this.started = this.clock()
  }

  /** The block is done, which lasts so many seconds. Writes the figures. */
  end(seconds: number, values: Float32Array): void {
    const took = (this.clock() - this.started + this.between) / 1000
    this.between = 0
    this.busy += took
    this.measured++
    if (took > this.worst) this.worst = took
    if (took > seconds) this.missed++
    values[fixedSlot.load] = this.busy / (this.measured * seconds)
    values[fixedSlot.worst] = this.worst / seconds
    values[fixedSlot.missed] = this.missed
    values[fixedSlot['fine clock']] = fineClock ? 1 : 0
    if (this.measured < MEAN_BLOCKS) return
    this.busy *= 0.5
    this.measured *= 0.5
  }
}
