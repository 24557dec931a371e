import { describe, expect, it } from 'vitest'
import { compile, planning } from '@oleaje/core/engine/compile'
import { EffectStep } from '@oleaje/core/engine/effect-step'
import type { MergeStep } from '@oleaje/core/engine/merge-step'
import type { ModulatorStep } from '@oleaje/core/engine/modulator-step'
import { addNode, removeNode, shiftNode } from '@oleaje/core/project/chain-edits'
import { addLaneItem, setParam } from '@oleaje/core/project/value-edits'
import { addLink, addModulator, updateLink } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newSplit } from '@oleaje/core/project/new'
import { edited, engineOf, live, play, projectOf, run } from './project-rig'
import { RATE, noise, peak } from './rig'

const x = noise(3, 4, 0.3)
const chain = (): ReturnType<typeof projectOf> =>
  projectOf(x, [
    newEffect('filter', { cutoff: 900 }, 'f'),
    newEffect('delay', { time: 0.01, feedback: 0.3 }, 'd'),
  ])
/** Blocks until an edit has been taken in, however large the project here is. */
const SETTLED = 80

describe('making a plan in pieces', () => {
  it('changes nothing of what plays until it is put in its place', () => {
    const p = chain()
    const with2 = edited(
      p.project,
      addModulator('t', 'lfo', { id: 'm', params: { rate: 3 } }),
      addLink('m', { owner: 'f', param: 'cutoff' }, 0.2, 0.6, { id: 'l' }),
      addNode(newEffect('drive', {}, 'e'), { after: 'f' }),
    )
    const untouched = run(engineOf(p), 60)
    const engine = engineOf(p)
    const before = run(engine, 30)
    // all of the work, and never the end of it
    const { plan } = engine as unknown as { plan: ReturnType<typeof compile> }
    const work = planning(
      with2,
      {
        sampleRate: RATE,
        song: engine.transport.song,
        input: engine.input,
        audio: p.audio,
        compensate: true,
      },
      plan,
    )
    let pieces = 0
    while (!work.next().done) pieces++
    expect(pieces).toBeGreaterThan(8)
    expect([...before, ...run(engine, 30)]).toEqual([...untouched])
  })

  it('gives each block a few pieces only, and the edit is heard some blocks later', () => {
    const p = chain()
    const engine = engineOf(p)
    run(engine, 30)
    const next = edited(
      p.project,
      setParam('f', 'cutoff', 900),
      addNode(newEffect('gain', { level: 2 }, 'g'), { after: 'd' }),
    )
    engine.update(next)
    expect(engine.planning).toBe(true)
    let blocks = 0
    while (engine.planning) {
      run(engine, 1)
      blocks++
      expect(blocks).toBeLessThan(SETTLED)
    }
    expect(blocks).toBeGreaterThan(1)
    run(engine, 3)
    expect(live(engine, 'live:g.level')).not.toBeNaN()
  })

  it('comes to the same sound as a project that was so from the start', () => {
    const p = chain()
    const next = edited(p.project, addNode(newEffect('gain', { level: -6 }, 'g'), { after: 'd' }))
    const late = play(p, 2, { 10: (e) => e.update(next) }).left
    const early = play({ ...p, project: next }, 2).left
    const from = 1 * RATE
    expect(peak(late.slice(from).map((y, i) => y - (early[from + i] ?? 0)))).toBeLessThan(1e-6)
  })

  it('takes values that are set meanwhile, of what stays and of what is new', () => {
    const p = chain()
    const engine = engineOf(p)
    run(engine, 30)
    let now = edited(p.project, addNode(newEffect('gain', { level: -20 }, 'g'), { after: 'd' }))
    engine.update(now)
    run(engine, 1)
    expect(engine.planning).toBe(true)
    now = edited(now, setParam('g', 'level', 4), setParam('f', 'cutoff', 4000))
    engine.update(now)
    expect(engine.planning).toBe(true)
    run(engine, SETTLED)
    expect(live(engine, 'live:g.level')).toBeGreaterThan(0.5)
    const { plan } = engine as unknown as { plan: ReturnType<typeof compile> }
    expect(plan.params.get('g')?.blocks.level?.value).toBeCloseTo(10 ** (4 / 20), 3)
    expect(plan.params.get('f')?.blocks.cutoff?.value).toBeCloseTo(4000, 0)
  })

  it('goes back where an edit is undone before it was heard', () => {
    const p = chain()
    const engine = engineOf(p)
    run(engine, 30)
    engine.update(edited(p.project, removeNode('d')))
    run(engine, 2)
    engine.update(p.project)
    run(engine, SETTLED)
    const { plan } = engine as unknown as { plan: ReturnType<typeof compile> }
    const d = plan.steps.get('node:d')
    expect(d).toBeInstanceOf(EffectStep)
    expect((d as EffectStep).leaving).toBe(false)
  })

  it('knows the items of a lane before they are there', () => {
    const p = projectOf(x, [newEffect('eq', {}, 'q')])
    const linked = edited(
      p.project,
      addModulator('t', 'lfo', { id: 'm', params: { rate: 3 } }),
      addLink('m', { owner: 'q', param: 'gain', lane: 'bands' }, 0.3, 0.7, { id: 'l' }),
      updateLink('l', { fan: { phase: 1, rate: 0, random: 0 } }),
    )
    const more = edited(linked, addLaneItem('q', 'bands', 4))
    const engine = engineOf({ ...p, project: linked })
    run(engine, 10)
    const count = (): number => (engine as unknown as { plan: ReturnType<typeof compile> }).plan.links.size
    const before = count()
    engine.update(more)
    run(engine, SETTLED)
    expect(count()).toBe(before + 1)
  })

  it('leaves every connection that an edit does not touch as it is', () => {
    const two = newSplit([
      { ...newBranch('low'), id: 'b1', nodes: [newEffect('drive', {}, 'e')] },
      { ...newBranch('high'), id: 'b2', nodes: [] },
    ])
    const p = projectOf(x, [
      newEffect('filter', { cutoff: 900 }, 'f'),
      { ...two, id: 's' },
      newEffect('gain', {}, 'g'),
    ])
    // the gain comes late because of the drive, and so does what moves it
    const moving = edited(
      p.project,
      addModulator('t', 'lfo', { id: 'm', params: { rate: 3 } }),
      addLink('m', { owner: 'g', param: 'level' }, 0.2, 0.6, { id: 'l' }),
    )
    const engine = engineOf({ ...p, project: moving })
    run(engine, 30)
    const parts = () => {
      const { plan } = engine as unknown as { plan: ReturnType<typeof compile> }
      const m = plan.steps.get('mod:m') as ModulatorStep
      return {
        inputs: new Map(plan.inputs),
        songs: new Map(plan.songs),
        links: new Map(plan.links),
        delays: m.delays,
        merged: (plan.steps.get('node:s') as MergeStep).inputs,
        acting: plan.params.get('g')!.byName.level!.links,
      }
    }
    const before = parts()
    expect(before.delays).toHaveLength(1)
    engine.update(edited(moving, addNode(newEffect('delay', {}, 'd'), { after: 'g' })))
    run(engine, SETTLED)
    const after = parts()
    for (const [key, input] of before.inputs)
      if (!key.startsWith('track:')) expect(after.inputs.get(key), key).toBe(input)
    for (const [key, link] of before.links) expect(after.links.get(key), key).toBe(link)
    expect(after.delays).toBe(before.delays)
    expect(after.merged).toBe(before.merged)
    expect(after.acting).toBe(before.acting)
    // one that no longer comes late needs no delay
    engine.update(edited(moving, removeNode('e')))
    run(engine, SETTLED)
    expect(parts().delays).toHaveLength(0)
  })

  it('makes no thump of bright sound: an edit adds nothing louder than what is heard', () => {
    const bright = Float32Array.from(
      { length: 4 * RATE },
      (_, i) => 0.3 * Math.sin(1.1 * i) + 0.2 * x[i % x.length]!,
    )
    const p = projectOf(bright, [newEffect('filter', { cutoff: 15_000 }, 'f'), newEffect('gain', {}, 'g')])
    for (const edit of [
      addNode(newEffect('gain', { level: -1 }, 'h'), { after: 'f' }),
      removeNode('f'),
      shiftNode('f', 1),
      addNode(newEffect('drive', { drive: 0 }, 'e'), { after: 'g' }),
    ]) {
      const engine = engineOf(p)
      const before = peak(run(engine, 200))
      engine.update(edited(p.project, edit))
      expect(peak(run(engine, 200))).toBeLessThan(1.5 * before)
    }
  })

  it('is finished at once where playing starts anew', () => {
    const p = chain()
    const engine = engineOf(p)
    run(engine, 5)
    engine.update(edited(p.project, removeNode('d')))
    engine.play(0)
    expect(engine.planning).toBe(false)
    expect((engine as unknown as { plan: ReturnType<typeof compile> }).plan.steps.has('node:d')).toBe(false)
  })
})
