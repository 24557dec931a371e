import { FRACTION } from '../dsp/fraction'
import { BLOCK, type StereoBlock, settle, stereoBlock } from '../contract/block'
import type { AlignedInput } from './aligned-input'
import { Declick } from './declick'
import { add, copy } from './mixing'
import { Switch } from './soft-switch'
import { type SoundStep, tellsPeak } from './step'

/** An input of a sum, by the name of its route. */
export interface Arrival {
  readonly way: string
  readonly input: AlignedInput
}

/**
 * The head of a bus or of the mix: the sum of all that goes there. Single ways can be left out while others
 * are heard alone.
 */
export class SumStep implements SoundStep {
  readonly out = stereoBlock()
  readonly tells = tellsPeak
  peak = FRACTION
  private from: readonly Arrival[] = []
  private gates: Switch[] = []
  private closed: ReadonlySet<string> = none
  private readonly declick = new Declick()
  private readonly sum = stereoBlock()

  get arrivals(): readonly Arrival[] {
    return this.from
  }
  /** Allocates. */
  set arrivals(arrivals: readonly Arrival[]) {
    const known = new Map(this.from.map(({ way }, k) => [way, this.gates[k]]))
    this.gates = arrivals.map(({ way }) => {
      const gate = known.get(way) ?? new Switch()
      if (!known.has(way)) gate.jump(!this.closed.has(way))
      return gate
    })
    this.from = arrivals
  }

  /** Leaves ways out, softly; never part of a render. */
  close(ways: ReadonlySet<string>): void {
    this.closed = ways
  }

  run(): void {
    const { sum, from, gates, closed, out } = this
    sum.left.fill(0)
    sum.right.fill(0)
    for (let k = 0; k < from.length; k++) {
      const x = from[k].input.read()
      const gate = gates[k]
      gate.move(!closed.has(from[k].way))
      if (gate.start === 1 && gate.end === 1) add(x, sum)
      else if (gate.start !== 0 || gate.end !== 0) addMoving(x, gate.start, gate.end, sum)
    }
    copy(this.declick.process(sum), out)
    this.peak = settle(out)
  }

  tell(values: Float32Array, slots: readonly number[]): void {
    if (slots[0] >= 0) values[slots[0]] = this.peak
  }

  reset(): void {
    this.declick.reset()
    for (let k = 0; k < this.from.length; k++) {
      this.from[k].input.reset()
      this.gates[k].jump(!this.closed.has(this.from[k].way))
    }
  }

  cut(): void {
    this.declick.cut()
  }
}

const none: ReadonlySet<string> = new Set()

function addMoving(x: StereoBlock, w0: number, w1: number, sum: StereoBlock): void {
  const step = (w1 - w0) / BLOCK
  for (let i = 0; i < BLOCK; i++) {
    const w = w0 + step * (i + 1)
    sum.left[i] += x.left[i] * w
    sum.right[i] += x.right[i] * w
  }
}
