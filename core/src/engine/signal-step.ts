import type { ParamBlock } from '../contract/block'
import type { OutputDelay } from './output-delay'
import type { Step } from './step'

/** A step with signals that modulators and links read: a modulator, or an effect with a gate. */
export interface SignalStep extends Step {
  /** One block of 0…1 for each of the definition's outputs. */
  readonly outputs: readonly ParamBlock[]
  readonly definition: { readonly outputs?: readonly string[] }
  /** Its outputs, delayed for users behind latency; shared by users with the same latency. */
  delays: readonly DelayedOutput[]
}

/** An output and its delayed copy. */
export interface DelayedOutput {
  readonly source: ParamBlock
  readonly delay: OutputDelay
}

/** An output by its name; the first where there is none of that name. */
export const outputOf = (step: SignalStep, name: string): ParamBlock =>
  step.outputs[Math.max(0, (step.definition.outputs ?? []).indexOf(name))]
