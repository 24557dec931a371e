/**
 * Share of a block's time above which the work of blocks counts as too much, and below which it is well
 * again.
 */
const FULL = 0.9
const WELL = 0.8
/** Time that the work has to stay on one side before it counts, in ms. */
const LASTING_MS = 2000

/**
 * Tells when the work of blocks has filled their time for two seconds, and when it has been well again for as
 * long.
 */
export class Overload {
  /** Whether the engine has been overloaded for long enough to notify the user. */
  isOn = false
  /** Whether the load is above the limit now, notified or not: time to measure the costs. */
  isNear = false
  private since: number | null = null

  /**
   * Takes the load as it is now.
   * @param now time in ms
   * @param load work of the blocks over their time
   */
  take(now: number, load: number): void {
    this.isNear = load > FULL
    if (this.isOn ? load >= WELL : !this.isNear) {
      this.since = null
      return
    }
    this.since ??= now
    if (now - this.since < LASTING_MS) return
    this.isOn = !this.isOn
    this.since = null
  }

  /** Nothing plays, or another project does: nothing is known. */
  forget(): void {
    this.isOn = this.isNear = false
    this.since = null
  }
}
