/** Delays whole blocks by a fixed number of samples: what lines parallel paths up. One channel, any typed content. */
export class BlockDelay {
  private readonly ring: Float32Array
  private head = 0

  constructor(readonly delay: number) {
    this.ring = new Float32Array(delay)
  }

  reset(): void {
    this.ring.fill(0)
    this.head = 0
  }

  /** As if the input had always been at this value. */
  prime(value: number): void { this.ring.fill(value) }

  process(input: Float32Array, output: Float32Array, frames: number): void {
    const { ring, delay } = this
    if (delay === 0) {
      output.set(input)
      return
    }
    let head = this.head
    for (let i = 0; i < frames; i++) {
      const x = input[i]
      output[i] = ring[head]
      ring[head] = x
      if (++head === delay) head = 0
    }
    this.head = head
  }
}
