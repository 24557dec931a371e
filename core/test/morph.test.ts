import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { Engine } from '@oleaje/core/engine/engine'
import { MOST_PLACED, type PlacedSnapshot, placeOnCircle } from '@oleaje/core/modulators/morph'
import { together } from '@oleaje/core/project/edit'
import { morphLinks, placeSnapshots } from '@oleaje/core/project/morph'
import { addLink, addModulator, updateLink } from '@oleaje/core/project/motion-edits'
import { newEffect } from '@oleaje/core/project/new'
import { duplicateTrack, presetOfTrack, readPreset, takePresetInto } from '@oleaje/core/project/preset'
import { readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { takeSnapshot } from '@oleaje/core/project/snapshots'
import { setParam } from '@oleaje/core/project/value-edits'
import { planRender, render } from '@oleaje/core/render/render'
import { edited, live, place, play, projectOf } from './project-rig'
import { RATE, modulatorRig, noise, sine } from './rig'

const at = (snapshot: number, x: number, y = 0.5): PlacedSnapshot => ({ snapshot: String(snapshot), x, y })

/** A filter and a gain whose states are kept one after the other, with a morph `m` over them. */
function stored(sound: Float32Array, states: Record<string, number>[], points: PlacedSnapshot[], over = 0) {
  const rig = projectOf(sound, [newEffect('filter', { cutoff: 500 }, 'f'), newEffect('gain', {}, 'g')])
  let project = edited(rig.project, addModulator('t', 'morph', { id: 'm', params: { over } }))
  states.forEach((values, i) => {
    const set = Object.entries(values).map(([key, value]) => {
      const [owner = '', path = ''] = key.split('.')
      return setParam(owner, path, value)
    })
    project = edited(project, together(...set), takeSnapshot('t', i + 1))
  })
  return { ...rig, project: edited(project, placeSnapshots('m', points)) }
}
const running = (rig: { project: Project; audio: ReturnType<typeof projectOf>['audio'] }): Engine =>
  play(rig, 0.4, {}, undefined, true).engine

describe('weights', () => {
  const weights = (points: PlacedSnapshot[], params: Record<string, number>): number[] => {
    const rig = modulatorRig('morph', params, { data: { points } })
    rig.block()
    return rig.io.outputs.slice(0, points.length).map((o) => o.value)
  }

  it('on a plane are 1/d² of the whole, and 1 on a point', () => {
    const points = [at(1, 0.1, 0.2), at(2, 0.9, 0.3), at(3, 0.4, 0.8)]
    const d = (p: PlacedSnapshot): number => 1 / ((p.x - 0.37) ** 2 + (p.y - 0.61) ** 2)
    const all = points.reduce((sum, p) => sum + d(p), 0)
    weights(points, { x: 0.37, y: 0.61 }).forEach((w, i) =>
      expect(w).toBeCloseTo(d(points[i] as PlacedSnapshot) / all, 9),
    )
    expect(weights(points, { x: 0.9, y: 0.3 })[1]).toBeCloseTo(1, 6)
  })

  it('on a line are shared by the two neighbours, and held beyond the ends', () => {
    const points = [at(1, 0.7), at(2, 0.2), at(3, 0.9)]
    const line = (x: number): number[] =>
      weights(points, { x, over: 1 }).map((w) => Math.round(w * 1e6) / 1e6)
    expect(line(0.2)).toEqual([0, 1, 0])
    expect(line(0.3)).toEqual([0.2, 0.8, 0])
    expect(line(0.85)).toEqual([0.25, 0, 0.75])
    expect(line(0.05)).toEqual([0, 1, 0])
    expect(line(1)).toEqual([0, 0, 1])
  })
})

describe('a morph', () => {
  const two = [
    { 'f.cutoff': 300, 'f.slope': 0, 'g.level': -3 },
    { 'f.cutoff': 4800, 'f.slope': 1, 'g.level': -3 },
  ]

  it('goes from one snapshot to another, each parameter along its own scale; a switch changes half-way', () => {
    const rig = stored(noise(2, 3, 0.3), two, [at(1, 0), at(2, 1)], 1)
    const cutoff = (x: number): number =>
      live(running({ ...rig, project: edited(rig.project, setParam('m', 'x', x)) }), 'live:f.cutoff')
    expect(cutoff(0)).toBeCloseTo(place(rig.project, 'f', 'cutoff', 300), 4)
    expect(cutoff(1)).toBeCloseTo(place(rig.project, 'f', 'cutoff', 4800), 4)
    expect(cutoff(0.5)).toBeCloseTo(place(rig.project, 'f', 'cutoff', 1200), 4)
    const slope = (x: number): number =>
      live(running({ ...rig, project: edited(rig.project, setParam('m', 'x', x)) }), 'live:f.slope')
    expect(slope(0.48)).toBe(0)
    expect(slope(0.52)).toBe(1)
  })

  it('holds its values whatever the bases are, and leaves alone what all snapshots share', () => {
    const rig = stored(noise(2, 3, 0.3), two, [at(1, 0), at(2, 1)], 1)
    const moved = edited(
      rig.project,
      setParam('m', 'x', 0.25),
      setParam('f', 'cutoff', 9000),
      setParam('g', 'level', -17),
    )
    const engine = running({ ...rig, project: moved })
    expect(live(engine, 'live:f.cutoff')).toBeCloseTo(place(rig.project, 'f', 'cutoff', 600), 4)
    expect(morphLinks(moved).some((l) => l.target.owner === 'g')).toBe(false)
  })

  it('moves parameters of modulators and ends of links, but nothing that moves it', () => {
    const rig = stored(noise(3, 3, 0.3), [], [])
    const base = edited(
      rig.project,
      addModulator('t', 'lfo', { id: 'wave', params: { rate: 1 } }),
      addLink('wave', { owner: 'f', param: 'resonance' }, 0.2, 0.3, { id: 'l' }),
      addModulator('t', 'lfo', { id: 'hand', params: { rate: 0.3 } }),
      addLink('hand', { owner: 'm', param: 'x' }, 0, 1, { id: 'steers' }),
      takeSnapshot('t', 1),
    )
    const second = edited(
      base,
      setParam('wave', 'rate', 7),
      setParam('hand', 'rate', 5),
      updateLink('l', { from: -0.2, to: 0.4 }),
      takeSnapshot('t', 2),
      placeSnapshots('m', [at(1, 0), at(2, 1)]),
    )
    const owners = new Set(morphLinks(second).map((l) => `${l.target.owner}.${l.target.param}`))
    expect([...owners].sort()).toEqual(['l.from', 'l.to', 'wave.rate'])
    const engine = running({ ...rig, project: second })
    expect(engine.feedbackEdges).toEqual([])
  })

  const eight = Array.from({ length: MOST_PLACED }, (_, i) => ({
    'f.cutoff': 180 * 1.7 ** i,
    'f.resonance': 0.6 + 0.4 * i,
    'g.level': -1.3 * i,
  }))
  const plane = (sound: Float32Array) => {
    const rig = stored(
      sound,
      eight,
      eight.map((_, i) => ({ snapshot: String(i + 1), ...placeOnCircle(i, 8) })),
    )
    const project = edited(
      rig.project,
      addModulator('t', 'lfo', { id: 'a', params: { rate: 1.7 } }),
      addModulator('t', 'lfo', { id: 'b', params: { rate: 2.3, phase: 0.2 } }),
      addLink('a', { owner: 'm', param: 'x' }, 0, 1),
      addLink('b', { owner: 'm', param: 'y' }, 0, 1),
    )
    return { ...rig, project }
  }

  it('of eight snapshots, moved by two LFOs, makes no click', () => {
    const { left } = play(plane(sine(311, 2, 0.4)), 1.9)
    let most = 0
    for (let i = RATE / 4; i < left.length; i++)
      most = Math.max(most, Math.abs((left[i] ?? 0) - (left[i - 1] ?? 0)))
    // the steepest step of a sine of this level, with room for what resonance adds
    expect(most).toBeLessThan(2.5 * 0.4 * 2 * Math.PI * (311 / RATE))
    expect(most).toBeGreaterThan(0)
  })

  it('renders as it plays, bit for bit, and after it was saved and read', () => {
    const rig = plane(noise(2, 3, 0.3))
    const plan = planRender(rig.project, { from: 0, to: 1.37, tail: 0 })
    const rendered: number[] = []
    for (const { channels, done } of render(plan, rig.audio))
      rendered.push(...channels[0].subarray(0, done - rendered.length))
    const { left } = play({ ...rig, project: readProject(JSON.stringify(rig.project)) }, 1.37)
    expect(Float32Array.from(rendered)).toEqual(left.subarray(0, rendered.length))
  })

  it('takes other snapshots and other places while it plays', () => {
    const rig = stored(noise(3, 3, 0.3), two, [at(1, 0), at(2, 1)], 1)
    const start = edited(rig.project, setParam('m', 'x', 0.25))
    const moved = edited(start, placeSnapshots('m', [at(1, 0), at(2, 0.5)]))
    const other = edited(moved, setParam('f', 'cutoff', 2400), takeSnapshot('t', 1))
    const seen: number[] = []
    play(
      { ...rig, project: start },
      1,
      { 100: (e) => e.update(moved), 200: (e) => e.update(other) },
      (e, b) => {
        if ([99, 199, 370].includes(b)) seen.push(live(e, 'live:f.cutoff'))
      },
      true,
    )
    expect(seen[0]).toBeCloseTo(place(start, 'f', 'cutoff', 600), 3)
    expect(seen[1]).toBeCloseTo(place(start, 'f', 'cutoff', 1200), 3)
    expect(seen[2]).toBeCloseTo(place(start, 'f', 'cutoff', Math.sqrt(2400 * 4800)), 3)
  })

  it('glides where a snapshot is dragged, and is exactly there after 30 ms', () => {
    const rig = modulatorRig('morph', { x: 0.25, over: 1 }, { data: { points: [at(1, 0), at(2, 1)] } })
    const weight: number[] = []
    const blocks = (n: number): void => {
      for (let b = 0; b < n; b++) {
        rig.block()
        weight.push(...(rig.io.outputs[1]?.values() ?? []))
      }
    }
    blocks(3)
    rig.processor.take?.({ points: [at(1, 0), at(2, 0.5)] })
    blocks(1 + Math.ceil((0.03 * RATE) / BLOCK))
    let most = 0
    for (let i = 1; i < weight.length; i++)
      most = Math.max(most, Math.abs((weight[i] ?? 0) - (weight[i - 1] ?? 0)))
    expect(most).toBeLessThan(1.01 * (0.25 / (0.03 * RATE)))
    expect(weight.at(0)).toBe(0.25)
    expect(weight.at(-1)).toBe(0.5)
  })

  it('goes with its chain and its snapshots to another track, and sounds the same there', () => {
    const rig = stored(noise(2, 3, 0.3), two, [at(1, 0), at(2, 1)], 1)
    const start = edited(rig.project, setParam('m', 'x', 0.37))
    const preset = readPreset(JSON.stringify(presetOfTrack(start, 't')))
    const bare = projectOf(noise(2, 3, 0.3), [newEffect('drive', {}, 'other')])
    const taken = edited(bare.project, takeSnapshot('t', 1), takePresetInto('t', preset, { chainOf: 't' }))
    expect(taken.tracks[0]?.snapshots.map((s) => s.id)).toEqual(['1', '2', '3'])
    expect(play({ ...bare, project: taken }, 0.5).left).toEqual(play({ ...rig, project: start }, 0.5).left)
    const twice = edited(start, duplicateTrack('t', 'copy'))
    expect(morphLinks(twice).length).toBe(2 * morphLinks(start).length)
  })
})
