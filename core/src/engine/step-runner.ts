import type { StereoBlock } from '../contract/block'
import type { SoundStep, Step } from './step'
import { Rest } from './rest'
import type { StepCosts } from './step-costs'

/** Runs the steps of a plan, block by block. A step that throws is cut; the others continue. */
export class StepRunner {
  /** Whether there is anything to run. */
  readonly rest = new Rest()
  /** Measures what each step costs; null for not. */
  costs: StepCosts | null = null
  /** Steps that have failed and are not run any more. */
  private readonly failed = new Set<Step>()

  /** @param onFault told which step has thrown, and what */
  constructor(private readonly onFault: (step: Step, error: unknown) => void) {}

  /** Runs again what has failed before. */
  forgive(): void {
    this.failed.clear()
  }

  /** @param values where costs are written */
  run(order: readonly Step[], values: Float32Array): void {
    let i = 0
    while (i < order.length) {
      try {
        if (this.costs && i === 0) {
          this.costs.run(order, values)
          return
        }
        if (this.failed.size === 0) for (; i < order.length; i++) order[i].run()
        else for (; i < order.length; i++) if (!this.failed.has(order[i])) order[i].run()
      } catch (error) {
        // which one it was is seen where costs are not measured
        if (this.costs) this.costs = null
        else this.cut(order[i++], error)
      }
    }
  }

  /**
   * An effect is held as by its guard, and lets through what comes; anything else gives nothing from now on.
   */
  private cut(step: Step, error: unknown): void {
    if (step.fail && !step.guard?.held) step.fail()
    else {
      this.failed.add(step)
      if (step.mute) step.mute()
      else silence((step as Partial<SoundStep>).out)
    }
    this.onFault(step, error)
  }
}

function silence(out: StereoBlock | undefined): void {
  out?.left.fill(0)
  out?.right.fill(0)
}
