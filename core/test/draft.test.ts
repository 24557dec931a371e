import { describe, expect, it } from 'vitest'
import type { AlignedInput } from '@oleaje/core/engine/aligned-input'
import { stereoBlock } from '@oleaje/core/contract/block'
import { type Made, PlanDraft } from '@oleaje/core/engine/draft'
import type { KeptSteps } from '@oleaje/core/engine/plan'
import { MergeStep } from '@oleaje/core/engine/merge-step'
import type { SoundStep } from '@oleaje/core/engine/step'

class Buoy implements SoundStep {
  readonly out = stereoBlock()
  readonly peak = 0
  cuts = 0
  input: AlignedInput | null = null
  run(): void {}
  reset(): void {}
  cut(): void {
    this.cuts++
  }
}
const nothing: KeptSteps = { steps: new Map(), links: new Map(), inputs: new Map(), songs: new Map() }
const keptOf = (p: PlanDraft): KeptSteps => ({
  steps: p.steps,
  links: new Map(),
  inputs: p.inputs,
  songs: p.songs,
})
const buoy = (p: PlanDraft, key: string): Made<Buoy> =>
  p.add(
    key,
    Buoy,
    () => true,
    () => new Buoy(),
  )

/** Works all connections out, each with a delay. */
function attach(p: PlanDraft, delay = 0): void {
  for (const draft of p.drafts.values()) {
    for (const edge of draft.edges) {
      const from = edge.from()
      if (from) edge.attach(from, delay)
    }
  }
  for (const f of p.finishing) f()
}
const exchange = (p: PlanDraft): void => {
  for (const f of p.exchange) f()
}

/** Two steps, the second of which hears the first. */
function channel(kept = nothing, delay = 0, quiet = false) {
  const p = new PlanDraft(kept)
  const from = buoy(p, 'from')
  const to = buoy(p, 'to')
  p.connect(
    to.draft,
    'in',
    () => from.draft,
    (i) => {
      p.give(to, 'input', i)
    },
    { quiet },
  )
  attach(p, delay)
  return { p, from, to }
}

describe('a plan that is being made', () => {
  it('takes the steps that play where they fit, and makes the others', () => {
    const first = new PlanDraft(nothing)
    const made = buoy(first, 'a')
    const p = new PlanDraft(keptOf(first))
    expect(buoy(p, 'a')).toMatchObject({ step: made.step, draft: { fresh: false } })
    const other = p.add(
      'a',
      Buoy,
      (s) => s !== made.step,
      () => new Buoy(),
    )
    expect(other.step).not.toBe(made.step)
    expect([other.draft.fresh, p.steps.get('a')]).toEqual([true, other.step])
    expect(buoy(p, 'b').draft.fresh).toBe(true)
  })
  it('changes new steps at once, and those that play with the exchange', () => {
    const { p, to } = channel()
    expect(to.step.input).not.toBeNull()
    expect(p.exchange).toEqual([])
    const next = channel(keptOf(p), 5)
    expect(next.to.step.input).toBe(to.step.input)
    expect(next.to.step.input?.delay).toBe(0)
    exchange(next.p)
    expect(next.to.step.input?.delay).toBe(5)
  })
  it('does nothing to a step whose connections stay', () => {
    const { p } = channel()
    const next = channel(keptOf(p))
    expect(next.p.exchange).toEqual([])
    expect(next.p.inputs.get('to<in')).toBe(p.inputs.get('to<in'))
  })
  it('says to a step that plays that its sound will come from elsewhere, unless that is only listened to', () => {
    const { p } = channel()
    const loud = channel(keptOf(p), 3)
    expect(loud.to.step.cuts).toBe(0)
    exchange(loud.p)
    expect(loud.to.step.cuts).toBe(1)
    const quiet = channel(keptOf(loud.p), 4, true)
    exchange(quiet.p)
    expect(quiet.to.step.cuts).toBe(1)
  })
  it('adds up what meets, and cuts only where more or fewer meet', () => {
    const meeting = (kept: KeptSteps, keys: string[], delay = 0) => {
      const p = new PlanDraft(kept)
      const ends = keys.map((k) => buoy(p, k).draft)
      const merge = p.add(
        'sum',
        MergeStep,
        () => true,
        () => new MergeStep(null),
      )
      p.meet(merge, ends)
      attach(p, delay)
      return { p, step: merge.step }
    }
    const { p, step } = meeting(nothing, ['a', 'b'])
    expect(step.inputs).toHaveLength(2)
    expect(meeting(keptOf(p), ['a', 'b']).p.exchange).toEqual([])
    const more = meeting(keptOf(p), ['a', 'b', 'c'])
    expect(step.inputs).toHaveLength(2)
    exchange(more.p)
    expect(step.inputs).toHaveLength(3)
    const fewer = meeting(keptOf(more.p), ['b'])
    exchange(fewer.p)
    expect(step.inputs.map((i) => i.source)).toEqual([(fewer.p.steps.get('b') as Buoy).out])
  })
})
