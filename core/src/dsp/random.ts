/** 32-bit hash of a text (FNV-1a; Fowler, Noll, Vo 1991). */
export function hashText(text: string): number {
  let h = 0x811c9dc5
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193)
  return h >>> 0
}

/** 32-bit finaliser of MurmurHash3 (Appleby 2008): every input bit reaches every output bit. */
export function mix32(h: number): number {
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35)
  return (h ^ (h >>> 16)) >>> 0
}

/** The same number in 0…1 for the same seed and index, whenever asked. */
export const randomAt = (seed: number, index: number): number =>
  mix32(mix32(seed ^ Math.imul(index | 0, 0x9e3779b1)) + 0x6d2b79f5) / 4294967296

/** Seeded generator of numbers in 0…1 (splitmix, 32 bits; Steele, Lea, Flood 2014). */
export class Random {
  private state: number
  constructor(private readonly seed: number) {
    this.state = seed | 0
  }
  reset(): void {
    this.state = this.seed | 0
  }
  next(): number {
    this.state = (this.state + 0x9e3779b9) | 0
    return mix32(this.state) / 4294967296
  }
  /**
   * Fills a block with white noise in −1…1. In whole numbers of 32 bits throughout, which are never boxed.
   */
  fill(out: Float64Array): void {
    let state = this.state | 0
    for (let i = 0; i < out.length; i++) {
      // the constants of `next`, as the whole numbers of 32 bits that they are
      state = (state - 1640531527) | 0
      let h = Math.imul(state ^ (state >>> 16), -2048144789)
      h = Math.imul(h ^ (h >>> 13), -1028477387)
      out[i] = (h ^ (h >>> 16)) / 2147483648
    }
    this.state = state
  }

  /** White noise in −1…1. */
  bipolar(): number {
    return this.next() * 2 - 1
  }
}
