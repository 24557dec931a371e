import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import type { Step } from '@oleaje/core/engine/step'
import { StepCosts } from '@oleaje/core/engine/step-costs'
import { costLines } from '@oleaje/core/engine/cost-lines'
import { addNode } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newSplit } from '@oleaje/core/project/new'
import { edited, live, projectOf } from './project-rig'
import { RATE, noise } from './rig'

const slot = (BLOCK / RATE) * 1000

/** Steps that take so many milliseconds of a clock of their own. */
function timed(...ms: number[]) {
  let now = 0
  const steps: Step[] = ms.map((m) => ({
    run() {
      now += m
    },
    reset() {},
    cut() {},
  }))
  return {
    steps,
    clock: () => now,
    spoil(by: number) {
      now += by
    },
  }
}

describe('costs of steps', () => {
  it('come to the share of a block that each takes, one timed in each block', () => {
    const { steps, clock } = timed(0.1 * slot, 0.02 * slot, 0)
    const costs = new StepCosts(clock, RATE)
    const values = new Float32Array(3)
    costs.follow(steps, Int32Array.of(0, 1, 2))
    costs.run(steps, values)
    expect([...values].filter((v) => v > 0)).toHaveLength(1)
    for (let i = 0; i < 60; i++) costs.run(steps, values)
    for (const [i, share] of [0.1, 0.02, 0].entries()) expect(values[i]).toBeCloseTo(share, 6)
  })
  it('are hardly moved by a reading that the host has spoilt, and follow a step that has become dearer', () => {
    let now = 0
    let cost = 0.01 * slot
    const steps: Step[] = [
      {
        run() {
          now += cost
        },
        reset() {},
        cut() {},
      },
    ]
    const costs = new StepCosts(() => now, RATE)
    const values = new Float32Array(1)
    costs.follow(steps, Int32Array.of(0))
    for (let i = 0; i < 20; i++) costs.run(steps, values)
    cost = 3 * slot
    costs.run(steps, values)
    expect(values[0]).toBeLessThan(0.013)
    cost = 0.05 * slot
    for (let i = 0; i < 60; i++) costs.run(steps, values)
    expect(values[0]).toBeCloseTo(0.05, 3)
  })
  it('still run every step of an order that they do not know yet, and keep what they know of one that goes on', () => {
    const { steps, clock } = timed(0.1 * slot, 0.02 * slot)
    const costs = new StepCosts(clock, RATE)
    const values = new Float32Array(2)
    let ran = 0
    costs.run(
      [
        {
          run() {
            ran++
          },
          reset() {},
          cut() {},
        },
      ],
      values,
    )
    expect(ran).toBe(1)
    costs.follow(steps, Int32Array.of(0, 1))
    for (let i = 0; i < 8; i++) costs.run(steps, values)
    const rest = [steps[1]!]
    costs.follow(rest, Int32Array.of(1))
    values.fill(0)
    costs.run(rest, values)
    expect(values[1]).toBeCloseTo(0.02, 6)
  })
})

describe('lines of costs', () => {
  const base = projectOf(noise(1), [
    newEffect('gain', {}, 'g'),
    {
      ...newSplit([
        { ...newBranch('low'), id: 'b1', nodes: [newEffect('drive', {}, 'd')] },
        { ...newBranch('high'), id: 'b2', nodes: [] },
      ]),
      id: 's',
    },
    newEffect('resonators', {}, 'r'),
  ])
  const project = edited(
    base.project,
    addModulator('t', 'lfo', { id: 'l' }),
    addLink('l', { owner: 'r', param: 'voices.note' } as never, 0.2, 0.3, { id: 'k' }),
  )
  it('name every step that a plan runs, so that the lines of all tracks add up to the whole', () => {
    const engine = new Engine({ sampleRate: RATE, audio: base.audio })
    let now = 0
    engine.measureCosts(() => now++)
    engine.load(project)
    engine.play(0)
    const [l, r] = [new Float32Array(BLOCK), new Float32Array(BLOCK)]
    for (let i = 0; i < 200; i++) engine.process(l, r)
    const measured = engine.slots
      .since(0)
      .map(([key]) => key)
      .filter((key) => key.startsWith('cost:') && !key.startsWith('cost:link:'))
    const named = project.tracks.flatMap((t) => costLines(project, t)).flatMap((line) => line.keys)
    for (const key of measured)
      expect(
        named.some((n) => key === `cost:${n}` || key.startsWith(`cost:${n}#`)),
        key,
      ).toBe(true)
    for (const key of measured) expect(live(engine, key), key).toBeGreaterThan(0)
  })
  it('count what is nested within what holds it, and show it by itself one step in', () => {
    const lines = costLines(project, project.tracks[0]!)
    expect(lines.map((l) => [l.id, l.depth])).toEqual([
      ['src', 0],
      ['g', 0],
      ['s', 0],
      ['d', 1],
      ['r', 0],
      ['l', 0],
      ['t', 0],
    ])
    expect(lines[2]!.keys).toEqual([
      'node:s',
      'split:s',
      'head:b1',
      'branch:b1',
      'head:b2',
      'branch:b2',
      'node:d',
    ])
  })
  it('are measured only while asked for', () => {
    const engine = new Engine({ sampleRate: RATE, audio: base.audio })
    let asked = 0
    engine.load(edited(base.project, addNode(newEffect('gain'), { after: 'g' })))
    const [l, r] = [new Float32Array(BLOCK), new Float32Array(BLOCK)]
    engine.measureCosts(() => asked++)
    for (let i = 0; i < 10; i++) engine.process(l, r)
    const then = asked
    expect(then).toBeGreaterThan(0)
    engine.measureCosts(null)
    for (let i = 0; i < 10; i++) engine.process(l, r)
    expect(asked).toBe(then)
  })
})
