import { BLOCK, type StereoBlock } from '@oleaje/core/contract/block'

/** Frames of the test click, and the level at which it counts as received. */
const CLICK = 64
const HEARD = 0.1

/** Lays a click over what goes out and looks for it in what comes in. */
export class Loopback {
  private at = 0

  /** @param longest frames after which it is given up */
  constructor(private readonly longest: number) {}

  /** A block; gives the frames that it took, null where it never came in, undefined while on its way. */
  process(input: StereoBlock, left: Float32Array, right: Float32Array): number | null | undefined {
    if (this.at === 0) for (let i = 0; i < CLICK; i++) left[i] = right[i] = i % 8 < 4 ? 0.8 : -0.8
    for (let i = 0; i < BLOCK; i++)
      if (Math.abs(input.left[i] ?? 0) >= HEARD && this.at + i > 0) return this.at + i
    this.at += BLOCK
    return this.at < this.longest ? undefined : null
  }
}
