import { continuation } from './continuation'

/** Samples of a block from which the way back is told, and as many as are told. */
const LOOK = 128
const reversed = new Float64Array(LOOK)
const earlier = new Float64Array(2048)

/**
 * Delays whole blocks by a fixed number of samples: what lines parallel paths up. One channel, any typed
 * content.
 */
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

  /** As if the samples of this block had gone in last; what came before them is told back from there. */
  primeFrom(past: Float32Array): void {
    const { ring, delay } = this
    ring.fill(0)
    this.head = 0
    for (let k = 0; k < Math.min(delay, LOOK); k++) ring[delay - 1 - k] = past[LOOK - 1 - k]
    const known = Math.min(delay - LOOK, earlier.length)
    if (known <= 0) return
    for (let i = 0; i < LOOK; i++) reversed[i] = past[LOOK - 1 - i]
    continuation(reversed, earlier, known)
    for (let k = 0; k < known; k++) ring[delay - 1 - LOOK - k] = earlier[k]
  }

  /**
   * As if the input had gone before as it goes on in its first block: the way back from there is told like
   * one on.
   */
  prime(block: Float32Array): void {
    const { ring, delay } = this
    for (let i = 0; i < LOOK; i++) reversed[i] = block[LOOK - 1 - i]
    const known = Math.min(delay, earlier.length)
    continuation(reversed, earlier, known)
    ring.fill(0)
    for (let k = 0; k < known; k++) ring[delay - 1 - k] = earlier[k]
    this.head = 0
  }

  process(input: Float32Array, output: Float32Array, frames: number): void {
    const { ring, delay } = this
    if (delay === 0) {
      output.set(input)
      return
    }
    let { head } = this
    for (let i = 0; i < frames;) {
      // as far as the ring goes on without coming round
      const ahead = head - i
      const stop = Math.min(frames, delay - ahead)
      for (; i < stop; i++) {
        const x = input[i]
        output[i] = ring[ahead + i]
        ring[ahead + i] = x
      }
      head = ahead + stop === delay ? 0 : ahead + stop
    }
    this.head = head
  }
}
