import { FRACTION } from '../dsp/fraction'
import { BLOCK, settle, stereoBlock } from '../contract/block'
import type { AlignedInput } from './aligned-input'
import { Declick } from './declick'
import { amplify } from './mixing'
import type { ParamSet } from './param-set'
import { Switch } from './soft-switch'
import { type SoundStep, tellsPeak } from './step'

/** A send from a track or a branch to a bus. */
export class SendStep implements SoundStep {
  readonly out = stereoBlock()
  readonly tells = tellsPeak
  peak = FRACTION
  input!: AlignedInput
  private readonly declick = new Declick()
  private readonly turn = new Switch()

  constructor(readonly params: ParamSet) {
    this.turn.jump(true)
  }

  run(): void {
    const { params, out, turn } = this
    params.update()
    const x = this.declick.process(this.input.read())
    const { level, on } = params.blocks
    turn.move(on.value >= 0.5)
    if (level.constant && turn.start === turn.end)
      amplify(x, level.value * turn.end, level.value * turn.end, out)
    else {
      const levels = level.values()
      const step = (turn.end - turn.start) / BLOCK
      for (let i = 0; i < BLOCK; i++) {
        const g = levels[i] * (turn.start + step * (i + 1))
        out.left[i] = x.left[i] * g
        out.right[i] = x.right[i] * g
      }
    }
    this.peak = settle(out)
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.peak
  }

  reset(): void {
    this.params.reset()
    this.input.reset()
    this.declick.reset()
    this.turn.jump(this.params.blocks.on.value >= 0.5)
  }

  cut(): void {
    this.declick.cut()
  }
}
