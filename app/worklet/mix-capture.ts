import { BLOCK, type StereoBlock } from '@oleaje/core/contract/block'

/** Keeps the first frames of the mix. */
export class MixCapture {
  readonly left: Float32Array<ArrayBuffer>
  readonly right: Float32Array<ArrayBuffer>
  private at = 0

  constructor(frames: number) {
    this.left = new Float32Array(frames)
    this.right = new Float32Array(frames)
  }

  /** Takes a block; gives whether it was the last. */
  take({ left, right }: StereoBlock): boolean {
    const n = Math.min(BLOCK, this.left.length - this.at)
    this.left.set(n === BLOCK ? left : left.subarray(0, n), this.at)
    this.right.set(n === BLOCK ? right : right.subarray(0, n), this.at)
    this.at += n
    return this.at === this.left.length
  }
}
