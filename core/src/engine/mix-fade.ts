import { FRACTION } from '../dsp/fraction'
import { BLOCK, type StereoBlock, settle } from '../contract/block'

/** Blocks of a fade of the output to silence or back: 21 ms. */
const FADE_BLOCKS = 8
const REST = 0

/** Fades the mix to silence, has something done there, and lets it come in again or begin at once. */
export class MixFade {
  /** Largest sample that it gave last. */
  heard = FRACTION
  /** −1 on its way to silence, 1 on its way back, 0 at rest. */
  private way = REST
  private at = FRACTION
  private back = false
  private then: () => void = nothing

  constructor() {
    this.at = 1
  }

  get isOn(): boolean {
    return this.way !== REST
  }

  /** Fades from the present weight. @param back whether it fades in again, instead of beginning at once */
  to(then: () => void, back: boolean): void {
    if (!this.isOn) this.at = 1
    this.way = -1
    this.then = then
    this.back = back
  }

  /** Has something else done in the silence that it is on its way to, and fades in again then. */
  instead(then: () => void): void {
    if (!this.isOn) return
    this.then = then
    this.back = true
  }

  /** Forgets a fade that is under way, with what was to come after it. */
  leave(): void {
    this.way = REST
    this.then = nothing
  }

  process(mix: StereoBlock): void {
    if (this.way !== REST) this.fade(mix)
    this.heard = settle(mix)
  }

  private fade(mix: StereoBlock): void {
    const from = this.at
    this.at = Math.min(1, Math.max(0, from + this.way / FADE_BLOCKS))
    const step = (this.at - from) / BLOCK
    for (let i = 0; i < BLOCK; i++) {
      const t = from + step * (i + 1)
      const w = t * t * (3 - 2 * t)
      mix.left[i] *= w
      mix.right[i] *= w
    }
    if (this.way < 0 && this.at === 0) {
      const { then } = this
      if (this.back) this.way = 1
      else this.leave()
      then()
    } else if (this.way > 0 && this.at === 1) this.leave()
  }
}

const nothing = (): void => {}
