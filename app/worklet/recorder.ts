import { BLOCK, type StereoBlock } from '@oleaje/core/contract/block'

/** Frames of one part of a recording. */
export const PART = 256 * BLOCK
const CHANNELS = 4

/** A part of a recording: dry left and right, wet left and right, one behind the other. */
export type Part = Float32Array<ArrayBuffer>
export const newPart = (): Part => new Float32Array(CHANNELS * PART)

/** Writes what goes into a chain and what comes out into parts that are handed over when they are full, and come back to be used again. */
export class Recorder {
  private filled = 0
  private part: Part | null

  /** @param spare parts to begin with @param hand takes a full one, or the last, with the frames in it */
  constructor(
    private readonly spare: Part[],
    private readonly hand: (part: Part, frames: number) => void,
  ) {
    this.part = spare.pop() ?? null
  }

  /** A part that is to be used again. */
  takeBack(part: Part): void {
    this.spare.push(part)
  }

  write(dry: StereoBlock, wet: StereoBlock): void {
    // the page has not kept up: it is told by what is missing at the end, never by a stall
    if (!this.part) this.part = this.spare.pop() ?? null
    const { part, filled } = this
    if (!part) return
    part.set(dry.left, filled)
    part.set(dry.right, PART + filled)
    part.set(wet.left, 2 * PART + filled)
    part.set(wet.right, 3 * PART + filled)
    this.filled += BLOCK
    if (this.filled === PART) this.give()
  }

  /** Hands over what is left. */
  end(): void {
    if (this.part) this.give()
  }

  private give(): void {
    if (this.part) this.hand(this.part, this.filled)
    this.part = this.spare.pop() ?? null
    this.filled = 0
  }
}
