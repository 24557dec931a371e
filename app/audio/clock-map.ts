/** Share by which the map follows a context clock that has fallen behind, with each look. */
const FOLLOW = 0.02
/**
 * Seconds of difference above which the clocks are matched again from scratch, because the context had
 * stopped.
 */
const LOST = 0.1

/**
 * Where a moment of the page's clock (`performance.now`, event time stamps) lies on the clock of an audio
 * context. That one moves on in steps, so of many looks the latest place counts.
 */
export class ClockMap {
  private offset = NaN

  /** Takes what both clocks say now, in seconds and in ms. */
  take(contextSeconds: number, pageMs: number): void {
    const now = contextSeconds - pageMs / 1000
    const away = now - this.offset
    if (Number.isNaN(away) || Math.abs(away) > LOST || away > 0) this.offset = now
    else this.offset += FOLLOW * away
  }

  /** Seconds of the context at a moment of the page; undefined before both have been seen. */
  contextTime(pageMs: number): number | undefined {
    return Number.isNaN(this.offset) ? undefined : pageMs / 1000 + this.offset
  }
}
