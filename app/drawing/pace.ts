/** Shortest time between two frames of a screen, in ms. */
export const FRAME = 17

/** Times between two drawings, in ms: thirty a second, and less. */
const PACES = [33, 50, 83, 117] as const
/**
 * Pictures take no more than this share of the page's thread; the hand has the rest, and sound a thread of
 * its own.
 */
const SHARE = 1 / 2
/** How much one drawing counts in the mean of what they take. */
const WEIGHT = 0.1
/** Time without a late block after which pictures come faster again. */
const CALM_MS = 8000

/**
 * How often pictures are drawn. Where a page is drawn in software, that takes as much of a core as the engine
 * does, and sound needs it more than a dot needs to move finely: so pictures come thirty times a second, less
 * often where each of them takes long, and less often for a while when blocks of sound have come late.
 */
export class Pace {
  private level = 0
  private late = 0
  private looked = -Infinity
  private calmSince = 0
  private cost = 0

  /** Time between two drawings in ms. */
  get apart(): number {
    return Math.max(PACES[this.level] ?? PACES[0], Math.min(PACES[PACES.length - 1] ?? 0, this.cost / SHARE))
  }

  /** Takes how long a drawing took, the browser's own part included, in ms. */
  drew(ms: number): void {
    this.cost += (ms - this.cost) * WEIGHT
  }

  /** Takes how many blocks have come late so far, at a time in ms. */
  take(now: number, late: number): void {
    if (now - this.looked < 1000) return
    const before = this.looked
    this.looked = now
    const more = late - this.late
    this.late = late
    // the first look, and a count that was begun anew, say nothing
    if (before === -Infinity || more < 0) this.calmSince = now
    else if (more > 0) {
      this.calmSince = now
      this.level = Math.min(PACES.length - 1, this.level + 1)
    } else if (now - this.calmSince >= CALM_MS) {
      this.calmSince = now
      this.level = Math.max(0, this.level - 1)
    }
  }
}
