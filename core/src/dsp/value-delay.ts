/**
 * Delays the values of a parameter by a fixed number of frames; before the first of them lies that one.
 * Double precision.
 */
export class ValueDelay {
  private readonly ring: Float64Array
  private head = 0
  private fresh = true

  constructor(delay: number) {
    this.ring = new Float64Array(delay)
  }

  reset(): void {
    this.fresh = true
  }

  /** Both may be one. */
  process(input: Float64Array, output: Float64Array): void {
    const { ring } = this
    if (this.fresh) ring.fill(input[0])
    this.fresh = false
    let { head } = this
    for (let i = 0; i < input.length; i++) {
      const x = input[i]
      output[i] = ring[head]
      ring[head] = x
      if (++head === ring.length) head = 0
    }
    this.head = head
  }
}
