/** Values along a loop over its passes, by place; NaN where there is none yet. */
export class LaneHistory {
  readonly values: Float32Array
  private at = 0

  constructor(places: number) {
    this.values = new Float32Array(places).fill(NaN)
  }

  clear(): void {
    this.values.fill(NaN)
  }

  /**
   * Takes the value at a share 0…1 of the way; the places jumped over since the last picture get what lies
   * between.
   */
  write(share: number, value: number): void {
    const { values, at } = this
    const to = Math.min(values.length - 1, Math.max(0, Math.floor(share * values.length)))
    const before = values[at] ?? NaN
    const step = to - at
    this.at = to
    // further than pictures are ever apart, it is a jump of the song
    if (step > 1 && step < values.length / 8 && !Number.isNaN(before))
      for (let i = 1; i < step; i++) values[at + i] = before + ((value - before) * i) / step
    values[to] = value
  }
}
