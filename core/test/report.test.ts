import { describe, expect, it } from 'vitest'
import { SLOTS, SlotMap, fixedSlots } from '@oleaje/core/engine/telemetry'
import { addNode, removeNode } from '@oleaje/core/project/chain-edits'
import { addLaneItem, setParam } from '@oleaje/core/project/value-edits'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect } from '@oleaje/core/project/new'
import { edited, engineOf, live, place, projectOf, run } from './project-rig'
import { noise } from './rig'

const x = noise(3, 4, 0.3)

describe('places of live values', () => {
  it('are told one by one as they come', () => {
    const slots = new SlotMap()
    expect(slots.size).toBe(fixedSlots.length)
    const a = slots.of('a'),
      b = slots.of('b')
    expect(slots.of('a')).toBe(a)
    expect(slots.since(fixedSlots.length)).toEqual([
      ['a', a],
      ['b', b],
    ])
    expect(slots.since(slots.size)).toEqual([])
    expect(
      slots
        .since(0)
        .slice(0, fixedSlots.length)
        .map(([name]) => name),
    ).toEqual([...fixedSlots])
  })

  it('are given until there are no more, and all anew when that is asked for', () => {
    const slots = new SlotMap()
    for (let i = slots.size; i < SLOTS; i++) expect(slots.of(`x${i}`)).toBe(i)
    expect(slots.of('one more')).toBe(-1)
    expect(slots.of('x100')).toBe(100)
    slots.renew()
    expect([slots.size, slots.generation]).toEqual([fixedSlots.length, 1])
    expect(slots.of('one more')).toBe(fixedSlots.length)
    expect(slots.of('beat')).toBe(0)
  })
})

describe('the report of live values', () => {
  const p = projectOf(x, [newEffect('filter', { cutoff: 900 }, 'f'), newEffect('compressor', {}, 'c')])

  it('brings only what is new with an edit, and leaves all others where they are', () => {
    const engine = engineOf(p)
    run(engine, 20)
    const before = new Map(engine.slots.since(0))
    engine.update(edited(p.project, addNode(newEffect('gain', { level: 3 }, 'g'), { after: 'f' })))
    run(engine, 80)
    const news = engine.slots.since(before.size).map(([key]) => key)
    expect(news).toContain('live:g.level')
    expect(news).toContain('peak:node:g')
    expect(news.every((key) => /[:.]g(\.|$)/.test(key) || key.endsWith(':g'))).toBe(true)
    for (const [key, slot] of before) expect(new Map(engine.slots.since(0)).get(key)).toBe(slot)
    expect(live(engine, 'live:g.level')).toBeCloseTo(
      place(
        edited(p.project, addNode(newEffect('gain', { level: 3 }, 'g'), { after: 'f' })),
        'g',
        'level',
        3,
      ),
      6,
    )
  })

  it('has room again where a long session has used it up with what is gone', () => {
    const engine = engineOf(p)
    run(engine, 20)
    for (let i = 0; engine.slots.size < SLOTS * 0.75 + 10; i++) engine.slots.of(`gone ${i}`)
    const gone = engine.slots.of('gone 9')
    engine.telemetry.values[gone] = 5
    const next = edited(
      p.project,
      addNode(newEffect('gain', { level: 3 }, 'g'), { after: 'f' }),
      setParam('f', 'cutoff', 2000),
    )
    engine.update(next)
    run(engine, 400)
    expect(engine.slots.generation).toBe(1)
    expect(engine.slots.size).toBeLessThan(400)
    expect(new Map(engine.slots.since(0)).has('gone 9')).toBe(false)
    expect(live(engine, 'live:f.cutoff')).toBeCloseTo(place(next, 'f', 'cutoff', 2000), 3)
    expect(live(engine, 'peak:node:g')).toBeGreaterThan(0.01)
    expect(live(engine, 'peak:track:t')).toBeGreaterThan(0.01)
    expect(live(engine, 'beat')).toBeGreaterThan(0)
    expect(engine.telemetry.values[gone]).not.toBe(5)
  })

  it('takes away what has been removed and takes it in again when it comes back', () => {
    const moving = edited(
      p.project,
      addModulator('t', 'lfo', { id: 'm', params: { rate: 3 } }),
      addLink('m', { owner: 'f', param: 'cutoff' }, 0.2, 0.6, { id: 'l' }),
    )
    const engine = engineOf({ ...p, project: moving })
    const seen = (): number[] => {
      const values: number[] = []
      for (let i = 0; i < 200; i++) {
        run(engine, 1)
        values.push(live(engine, 'live:f.cutoff'))
      }
      return values
    }
    const spread = (v: number[]): number => Math.max(...v) - Math.min(...v)
    expect(spread(seen())).toBeGreaterThan(0.3)
    engine.update(edited(moving, removeNode('f')))
    run(engine, 80)
    expect(spread(seen())).toBe(0)
    engine.update(moving)
    run(engine, 80)
    expect(spread(seen())).toBeGreaterThan(0.3)
  })

  it('has the items of a lane that are added later', () => {
    const q = projectOf(x, [newEffect('eq', {}, 'q')])
    const engine = engineOf(q)
    run(engine, 10)
    const keys = (): string[] =>
      engine.slots
        .since(0)
        .map(([key]) => key)
        .filter((key) => key.endsWith('.gain'))
    const before = keys().length
    engine.update(edited(q.project, addLaneItem('q', 'bands', 4)))
    run(engine, 80)
    expect(keys()).toHaveLength(before + 1)
    expect(live(engine, keys().at(-1)!)).toBeGreaterThanOrEqual(0)
  })
})
