import { BLOCK } from '../contract/block'
import { Switch } from './soft-switch'

/** Turns an effect on and off, softly; one with latency first works unheard until its sound is there. */
export class EffectTurn {
  readonly weight = new Switch()
  /** Whether its processor has been reset since it was last on. */
  isClean = true
  /** Works unheard in this block. */
  isWarming = false
  /** Blocks for which it has worked unheard since it began, and for which it has to. */
  private warmed = 0
  private readonly blocks: number

  constructor(latency: number) {
    this.blocks = latency > 0 ? Math.ceil(latency / BLOCK) + 1 : 0
  }

  get isOff(): boolean {
    return this.weight.start === 0 && this.weight.end === 0 && !this.isWarming
  }
  get isWhole(): boolean {
    return this.weight.start === 1 && this.weight.end === 1
  }

  jump(on: boolean): void {
    this.weight.jump(on)
  }

  /** A block further towards what is wanted. */
  move(wanted: boolean): void {
    this.isWarming = wanted && this.weight.end === 0 && this.warmed < this.blocks
    this.warmed = this.isWarming ? this.warmed + 1 : wanted ? this.warmed : 0
    this.weight.move(wanted && !this.isWarming)
  }
}
