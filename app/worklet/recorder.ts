import { BLOCK, type StereoBlock } from '@oleaje/core/contract/block'

/** Frames of one part of a recording. */
export const PART = 256 * BLOCK
const CHANNELS = 4

/** A part of a recording: dry left and right, wet left and right, one behind the other. */
export type Part = Float32Array<ArrayBuffer>
export const newPart = (): Part => new Float32Array(CHANNELS * PART)

/**
 * Writes what goes into a chain and what comes out into parts that are handed over when they are full, and
 * come back to be used again.
 */
export class Recorder {
  private filled = 0
  private part: Part | null
  /** Frames of the recording so far, and those of them where the part at work begins. */
  private frames = 0
  private from = 0
  /** Frame up to which parts have been handed over. */
  private given = 0

  /**
   * @param spare parts to begin with
   * @param hand takes a full one, or the last, with the frames in it and the frame of the recording that it
   *   begins at
   */
  constructor(
    private readonly spare: Part[],
    private readonly hand: (part: Part, frames: number, from: number) => void,
  ) {
    this.part = spare.pop() ?? null
  }

  /** A part that is to be used again. */
  takeBack(part: Part): void {
    this.spare.push(part)
  }

  write(dry: StereoBlock, wet: StereoBlock): void {
    // where the page has not kept up, some is missing; what comes after keeps its place
    if (!this.part) {
      this.part = this.spare.pop() ?? null
      this.from = this.frames
    }
    this.frames += BLOCK
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
    // an empty one says how much is missing before it
    if (!this.part) this.from = this.frames
    this.part ??= this.spare.pop() ?? null
    if (this.part && (this.filled > 0 || this.from > this.given)) this.give()
  }

  private give(): void {
    if (this.part) this.hand(this.part, this.filled, this.from)
    this.given = this.from + this.filled
    this.part = this.spare.pop() ?? null
    this.filled = 0
    this.from = this.frames
  }
}
