/**
 * Scales several amounts together. As long as nobody else has set them in between, factors follow on from the
 * amounts that it began with: twice and then half is as before, though an amount ends at 1.
 */
export class AmountScaling {
  private whole = 1
  private first: ReadonlyMap<string, number> = new Map()
  private last: ReadonlyMap<string, number> = new Map()

  /**
   * @param now the amounts as they are, by link
   * @returns the amounts as they shall be
   */
  by(factor: number, now: ReadonlyMap<string, number>): ReadonlyMap<string, number> {
    const { last } = this
    if (now.size !== last.size || [...now].some(([id, amount]) => last.get(id) !== amount)) {
      this.whole = 1
      this.first = now
    }
    this.whole *= factor
    this.last = new Map([...this.first].map(([id, amount]) => [id, Math.min(1, amount * this.whole)]))
    return this.last
  }
}
