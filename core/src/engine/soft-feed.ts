import { BLOCK, type StereoBlock, stereoBlock } from '../contract/block'
import { Switch } from './soft-switch'

/** Feeds an effect, and takes its food away softly while it rings out. */
export class SoftFeed {
  private readonly turn = new Switch()
  private readonly fed = stereoBlock()

  jump(on: boolean): void {
    this.turn.jump(on)
  }

  /** What it is given. */
  process(x: StereoBlock, on: boolean): StereoBlock {
    const { fed, turn } = this
    turn.move(on)
    if (turn.start === 1 && turn.end === 1) return x
    const step = (turn.end - turn.start) / BLOCK
    for (let i = 0; i < BLOCK; i++) {
      const w = turn.start + step * (i + 1)
      fed.left[i] = x.left[i] * w
      fed.right[i] = x.right[i] * w
    }
    return fed
  }

  /** While it rings out, it is added to the full dry sound instead of replacing a share of it. */
  addDry(out: StereoBlock, dry: StereoBlock, wet: number): void {
    const { turn } = this
    const step = (turn.end - turn.start) / BLOCK
    for (let i = 0; i < BLOCK; i++) {
      const w = wet * (1 - turn.start - step * (i + 1))
      out.left[i] += dry.left[i] * w
      out.right[i] += dry.right[i] * w
    }
  }
}
