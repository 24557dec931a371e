import { BLOCK, type StereoBlock, stereoBlock } from '../contract/block'
import { copy } from './mixing'
import { Switch } from './soft-switch'

/** Lets only a part of an effect be heard, with soft ends: its wet signal, or what it adds. */
export class PartHearing {
  /** Monitor state, never part of a render. */
  part: 'wet' | 'difference' | null = null
  private last: 'wet' | 'difference' = 'wet'
  private readonly turn = new Switch()
  private readonly wet = stereoBlock()

  /** Whether a part is monitored, or fades. */
  get isOn(): boolean {
    return this.part !== null || this.turn.end > 0
  }

  reset(): void {
    this.turn.jump(this.part !== null)
  }

  /** Keeps the signal before it is mixed with what went in. */
  keep(out: StereoBlock): void {
    copy(out, this.wet)
  }

  /** @param hasWet whether the wet signal of this block was kept; there is none of an effect that is off */
  process(out: StereoBlock, dry: StereoBlock, hasWet: boolean): void {
    const { part, turn, wet } = this
    if (part) this.last = part
    turn.move(part !== null)
    if (turn.start === 0 && turn.end === 0) return
    const difference = this.last === 'difference'
    for (let i = 0; i < BLOCK; i++) {
      const w = turn.start + ((turn.end - turn.start) * (i + 1)) / BLOCK
      const l = difference ? out.left[i] - dry.left[i] : hasWet ? wet.left[i] : 0
      const r = difference ? out.right[i] - dry.right[i] : hasWet ? wet.right[i] : 0
      out.left[i] += w * (l - out.left[i])
      out.right[i] += w * (r - out.right[i])
    }
  }
}
