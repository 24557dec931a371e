import type { Plan } from './compile'
import { BranchInStep } from './branch-in-step'
import { EffectStep } from './effect-step'
import { FaderStep } from './fader-step'
import { MergeStep } from './merge-step'
import { ModulatorStep } from './modulator-step'
import type { ParamSet } from './param-set'
import { SourceStep } from './source-step'
import type { SoundStep, Step } from './step'
import type { StepCosts } from './step-costs'
import { SLOTS, SlotMap } from './telemetry'

/** Places given from which on they are given anew: those of what has been removed go, and there is room again. */
const ENOUGH = SLOTS * 0.75

// steps and the places of what they say of themselves; a place is −1 where there was no room
interface Level { readonly step: SoundStep, readonly slot: number }
interface Effect { readonly step: EffectStep, readonly trips: number, readonly reads: readonly number[] }
interface Modulator { readonly step: ModulatorStep, readonly outputs: readonly number[], readonly reads: readonly number[] }
interface Places { readonly level: Level | null, readonly effect: Effect | null, readonly modulator: Modulator | null }

/** The live values of what plays: levels, places of parameters, outputs of modulators and what processors say of themselves. */
export class Report {
  readonly slots = new SlotMap()
  /** Places of the steps that have been seen, so that an edit costs little more than what it has brought. */
  private known = new WeakMap<Step, Places>()
  private levels: Level[] = []
  private effects: Effect[] = []
  private modulators: Modulator[] = []
  private sets: ParamSet[] = []

  constructor(private readonly values: Float32Array) {}

  /** Takes what plays now, of which some steps run, and whoever measures their costs. Allocates. */
  follow(plan: Plan, running: readonly Step[], costs: StepCosts | null): void {
    const { slots, values } = this
    if (slots.size > ENOUGH) this.renew(plan)
    const awake = new Set(running)
    this.levels = []
    this.effects = []
    this.modulators = []
    for (const [key, step] of plan.steps) {
      let at = this.known.get(step)
      if (!at) this.known.set(step, at = this.placesOf(key, step))
      if (at.level && awake.has(step)) this.levels.push(at.level)
      else if (at.level) values[at.level.slot] = 0
      if (at.effect) this.effects.push(at.effect)
      if (at.modulator) this.modulators.push(at.modulator)
    }
    this.sets = [...plan.params.values()]
    for (const [owner, set] of plan.params) {
      if (set.slots) continue
      set.slots = Int32Array.from(Object.keys(set.byName), (path) => slots.of(`live:${owner}.${path}`))
      set.moved = true
    }
    if (!costs) return
    const keys = new Map([...plan.steps].map(([key, step]) => [step, key]))
    costs.follow(running, Int32Array.from(running, (step) => slots.of(`cost:${keys.get(step) ?? ''}`)))
    for (const [key, step] of plan.steps) if (!awake.has(step)) values[slots.of(`cost:${key}`)] = 0
  }

  /** Writes the values of this block. */
  write(): void {
    const { values, levels, sets, modulators, effects } = this
    for (let i = 0; i < levels.length; i++) if (levels[i].slot >= 0) values[levels[i].slot] = levels[i].step.peak
    for (let i = 0; i < sets.length; i++) {
      const { all, slots, moved } = sets[i]
      if (!slots || !moved) continue
      sets[i].moved = false
      for (let k = 0; k < all.length; k++) if (slots[k] >= 0) values[slots[k]] = all[k].live
    }
    for (let i = 0; i < modulators.length; i++) {
      const { step, outputs, reads } = modulators[i]
      for (let k = 0; k < outputs.length; k++) if (outputs[k] >= 0) values[outputs[k]] = step.outputs[k].value
      writeReadouts(values, reads, step.processor.readouts)
    }
    for (let i = 0; i < effects.length; i++) {
      const { step, trips, reads } = effects[i]
      if (trips >= 0) values[trips] = step.guard.trips
      writeReadouts(values, reads, step.processor.readouts)
    }
  }

  private placesOf(key: string, step: Step): Places {
    const { slots } = this
    const reads = (names: readonly string[] = []): number[] => names.map((name) => slots.of(`read:${key}:${name}`))
    const sounds = step instanceof EffectStep || step instanceof FaderStep || step instanceof MergeStep || step instanceof SourceStep || step instanceof BranchInStep
    return {
      level: sounds ? { step, slot: slots.of(`peak:${key}`) } : null,
      effect: step instanceof EffectStep ? { step, trips: slots.of(`trips:${key}`), reads: reads(step.definition.readouts) } : null,
      // copies within a fan show nothing of their own
      modulator: step instanceof ModulatorStep && !key.includes('~')
        ? { step, outputs: step.definition.outputs.map((name, i) => slots.of(i === 0 ? key : `${key}.${name}`)), reads: reads(step.definition.readouts) }
        : null,
    }
  }

  private renew(plan: Plan): void {
    this.slots.renew()
    this.values.fill(0, this.slots.size)
    this.known = new WeakMap()
    for (const set of plan.params.values()) set.slots = null
  }
}

function writeReadouts(values: Float32Array, slots: readonly number[], readouts: Float64Array | undefined): void {
  if (readouts) for (let k = 0; k < slots.length; k++) if (slots[k] >= 0) values[slots[k]] = readouts[k]
}
