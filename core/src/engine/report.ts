import type { ParamSet } from './param-set'
import type { Plan } from './plan'
import type { Step } from './step'
import type { StepCosts } from './step-costs'
import { SLOTS, SlotMap } from './telemetry'

/**
 * Number of places after which all are reassigned, which frees the places of removed values.
 */
const ENOUGH = SLOTS * 0.75

/** A step and the places of what it says of itself; a place is −1 where there was no room. */
interface Teller {
  readonly step: Step
  readonly slots: readonly number[]
}

/**
 * The live values of what plays: levels, places of parameters, outputs of modulators and what processors say
 * of themselves.
 */
export class Report {
  readonly slots = new SlotMap()
  /** Places of the steps that have been seen, so that an edit costs little more than what it has brought. */
  private known = new WeakMap<Step, Teller>()
  private tellers: Teller[] = []
  private sets: ParamSet[] = []

  constructor(private readonly values: Float32Array) {}

  /** Takes the plan that plays, its running steps, and the measurement of their costs. Allocates. */
  follow(plan: Plan, running: readonly Step[], costs: StepCosts | null): void {
    const { slots, values } = this
    if (slots.size > ENOUGH) this.renew(plan)
    const awake = new Set(running)
    this.tellers = []
    for (const [key, step] of plan.steps) {
      if (!step.tells || step.tells.length === 0) continue
      let teller = this.known.get(step)
      if (!teller)
        this.known.set(
          step,
          (teller = { step, slots: step.tells.map((name) => slots.of(slotKey(key, name))) }),
        )
      if (awake.has(step)) this.tellers.push(teller)
      // a step that does not run has no level; its other values stay
      else if (step.tells[0] === 'peak' && teller.slots[0] >= 0) values[teller.slots[0]] = 0
    }
    this.sets = [...plan.params.values()]
    for (const [owner, set] of plan.params) {
      if (set.slots) continue
      set.slots = Int32Array.from(Object.keys(set.byName), (path) => slots.of(`live:${owner}.${path}`))
      set.moved = true
    }
    if (!costs) return
    const keys = new Map([...plan.steps].map(([key, step]) => [step, key]))
    costs.follow(
      running,
      Int32Array.from(running, (step) => slots.of(`cost:${keys.get(step) ?? ''}`)),
    )
    for (const [key, step] of plan.steps) if (!awake.has(step)) values[slots.of(`cost:${key}`)] = 0
  }

  /** Writes the values of this block. */
  write(): void {
    const { values, tellers, sets } = this
    for (let i = 0; i < tellers.length; i++) tellers[i].step.tell?.(values, tellers[i].slots)
    for (let i = 0; i < sets.length; i++) {
      const { all, slots, moved } = sets[i]
      if (!slots || !moved) continue
      sets[i].moved = false
      for (let k = 0; k < all.length; k++) if (slots[k] >= 0) values[slots[k]] = all[k].live
    }
  }

  private renew(plan: Plan): void {
    this.slots.renew()
    this.values.fill(0, this.slots.size)
    this.known = new WeakMap()
    for (const set of plan.params.values()) set.slots = null
  }
}

/**
 * The key of a live value: `peak:KEY`, `trips:KEY`, `read:KEY:NAME`; outputs of a modulator are its key and
 * `KEY.NAME`.
 */
function slotKey(key: string, name: string): string {
  if (name === '' || name.startsWith('.')) return `${key}${name}`
  return name.startsWith('read:') ? `read:${key}:${name.slice(5)}` : `${name}:${key}`
}
