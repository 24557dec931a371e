import type { ParamSet } from './param-set'
import type { Step } from './step'

/** The parameters of something that several steps share, worked out in their turn before these. */
export class ParamsStep implements Step {
  constructor(readonly params: ParamSet) {}
  run(): void {
    this.params.update()
  }
  reset(): void {
    this.params.reset()
  }
  cut(): void {}
}
