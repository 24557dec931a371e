import { FRACTION } from '../dsp/fraction'
import { type StereoBlock, settle, stereoBlock } from '../contract/block'
import { Declick } from './declick'
import { add, copy } from './mixing'
import { type SoundStep, tellsPeak } from './step'

/** The head of a branch that takes some of the outputs of a source: pads of a kit. */
export class PadsStep implements SoundStep {
  readonly out = stereoBlock()
  readonly tells = tellsPeak
  peak = FRACTION
  private chosen: readonly StereoBlock[] = []
  private readonly declick = new Declick()

  get pads(): readonly StereoBlock[] {
    return this.chosen
  }
  set pads(pads: readonly StereoBlock[]) {
    this.chosen = pads
    this.declick.cut()
  }

  run(): void {
    const { out, chosen } = this
    out.left.fill(0)
    out.right.fill(0)
    for (let k = 0; k < chosen.length; k++) add(chosen[k], out)
    const joined = this.declick.process(out)
    if (joined !== out) copy(joined, out)
    this.peak = settle(out)
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.peak
  }

  reset(): void {
    this.declick.reset()
  }

  cut(): void {
    this.declick.cut()
  }
}
