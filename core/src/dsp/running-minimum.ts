/**
 * The least of the last `window` values, for each of a block, in a few steps whatever the window: candidates
 * stand in a queue whose values only grow (Lemire, "Streaming maximum-minimum filter using no more than three
 * comparisons per element", 2006).
 */
export class RunningMinimum {
  private readonly values: Float64Array
  private readonly places: Float64Array
  private readonly mask: number
  // where the queue begins and ends, and how many values have come
  private first = 0
  private end = 0
  private count = 0

  constructor(private readonly window: number) {
    let size = 2
    while (size < window + 1) size *= 2
    this.values = new Float64Array(size)
    this.places = new Float64Array(size)
    this.mask = size - 1
  }

  reset(): void {
    this.first = this.end = this.count = 0
  }

  /** `x` and `out` may be the same. */
  process(x: Float64Array, out: Float64Array): void {
    const { values, places, mask, window } = this
    let { first, end, count } = this
    for (let i = 0; i < x.length; i++) {
      const v = x[i]
      while (end !== first && values[(end - 1) & mask] >= v) end = (end - 1) & mask
      values[end] = v
      places[end] = count
      end = (end + 1) & mask
      if (places[first] <= count - window) first = (first + 1) & mask
      out[i] = values[first]
      count++
    }
    // restarted before the numbers get large enough to cost precision
    if (count > 1e9) {
      for (let k = first; k !== end; k = (k + 1) & mask) places[k] -= count
      count = 0
    }
    this.first = first
    this.end = end
    this.count = count
  }
}
