import { describe, expect, it, vi } from 'vitest'
import { Random } from '@oleaje/core/dsp/random'
import { effectDefinition, effects } from '@oleaje/core/effects/index'
import { modulators } from '@oleaje/core/modulators/index'
import { addNode, addTrack } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator, removeLink, updateLink } from '@oleaje/core/project/motion-edits'
import { newEffect, newSource, newTrack } from '@oleaje/core/project/new'
import { setParam } from '@oleaje/core/project/value-edits'
import type { Edit } from '@oleaje/core/project/edit'
import type { Project } from '@oleaje/core/project/schema'
import { removeNode } from '@oleaje/core/project/chain-edits'
import { addBus, addSend } from '@oleaje/core/project/routing'
import { planRender } from '@oleaje/core/render/render'
import { Replay, soundOf } from '@oleaje/core/render/replay'
import { edited, projectOf } from './project-rig'
import { noise } from './rig'

/** A chain with latency, feedback, a follower of another track, a bus and links of several kinds. */
function rig() {
  const made = projectOf(noise(1.37, 5, 0.2), [
    newEffect('filter', { cutoff: 900 }, 'f'),
    newEffect('pitch', {}, 'p'),
    newEffect('delay', { time: 0.11, feedback: 0.6 }, 'd'),
    newEffect('drive', { drive: 18 }, 'dr'),
    newEffect('reverb', {}, 'r'),
  ])
  const kick = newTrack('kick', newSource('loop', {}, 'x', 'kick-src'), 'kick')
  kick.a.nodes = [newEffect('gate', {}, 'kg')]
  const project = edited(
    made.project,
    addTrack(kick),
    addModulator('t', 'lfo', { id: 'l' }),
    addModulator('t', 'follower', { id: 'fo', listens: { track: 'kick', point: 'after' } }),
    addLink('l', { owner: 'd', param: 'time' }, 0.2, 0.3, { id: 'late' }),
    addLink('l', { owner: 'f', param: 'cutoff' }, 0.3, 0.8, { id: 'early' }),
    addLink('fo', { owner: 't', param: 'level' }, 0.5, 0.8, { id: 'level' }),
    addLink('fo', { owner: 'l', param: 'rate' }, 0.2, 0.8, { id: 'rate' }),
    addBus('Room', 'room'),
    addNode(newEffect('reverb', {}, 'rr'), { startOf: 'room' }),
    addSend('t', 'room', { id: 's', level: -9 }),
  )
  return { ...made, project }
}

describe('variants from recordings of the first render', () => {
  const { project, audio } = rig()
  const plan = planRender(project, { from: 0.31, to: 1.77, tail: 0, track: 't' })
  const replay = new Replay(plan, audio)
  const variants: [string, Edit][] = [
    ['nothing', () => {}],
    ['a value of the first effect', setParam('f', 'cutoff', 2100)],
    ['a value of the last', setParam('r', 'decay', 0.7)],
    ['an effect without latency', removeNode('d')],
    ['an effect with latency', removeNode('p')],
    ['the first effect', removeNode('f')],
    ['a link', removeLink('late')],
    ['a link to a level', removeLink('level')],
    ['a link to a modulator', removeLink('rate')],
    ['what the followed track does', setParam('kg', 'threshold', -20)],
    ['a send', setParam('s', 'level', -3)],
    ['an effect of the bus', removeNode('rr')],
    ['one more effect', addNode(newEffect('chorus', {}, 'c'), { after: 'dr' })],
  ]
  it.each(variants)('%s: the same bits as a whole render', (_, edit) => {
    const changed = planRender(edited(project, edit), { from: 0.31, to: 1.77, tail: 0, track: 't' })
    const wanted = soundOf(changed, audio)
    const found = replay.of(changed)
    for (const side of [0, 1] as const)
      expect(found[side].reduce((n, x, i) => n + (x === wanted[side][i] ? 0 : 1), 0)).toBe(0)
  })
})

describe('variants of values, one after the other in the same engine', () => {
  const range = { from: 0.31, to: 0.83, tail: 0, track: 't' } as const

  /** Sets some values of an owner to anything that they can be. */
  const thrown =
    (owner: string, specs: Readonly<Record<string, { min: number; max: number }>>, random: Random): Edit =>
    (p) => {
      for (const [path, { min, max }] of Object.entries(specs))
        if (random.next() < 0.4) setParam(owner, path, min + (max - min) * random.next())(p)
    }

  function differing(project: Project, audio: ReturnType<typeof rig>['audio'], edits: Edit[]): number[] {
    const replay = new Replay(planRender(project, range), audio)
    return edits.map((edit) => {
      const plan = planRender(edited(project, edit), range)
      const [wanted, found] = [soundOf(plan, audio), replay.of(plan)]
      return wanted[0].reduce((n, x, i) => n + (x === found[0][i] && wanted[1][i] === found[1][i] ? 0 : 1), 0)
    })
  }

  it.each(effects.map((d) => [d.id, d] as const))('%s: the same bits as a whole render', (id, { params }) => {
    const made = projectOf(noise(1.37, 5, 0.2), [
      newEffect(id, {}, 'e'),
      newEffect('delay', { time: 0.11 }, 'd'),
    ])
    const random = new Random(7)
    const edits = [1, 2, 3, 4].map(() => thrown('e', params, random))
    expect(differing(made.project, made.audio, edits)).toEqual([0, 0, 0, 0])
  })

  it.each(modulators.map((d) => [d.id, d] as const))('%s: the same', (id, { params, outputs }) => {
    const made = projectOf(noise(1.37, 5, 0.2), [newEffect('filter', { cutoff: 900 }, 'f')])
    const project = edited(
      made.project,
      addModulator('t', id, { id: 'm' }),
      addLink('m', { owner: 'f', param: 'cutoff' }, 0.3, 0.8, { id: 'l', output: outputs[0]! }),
    )
    const random = new Random(11)
    const edits = [1, 2, 3].map(() => thrown('m', params, random))
    expect(differing(project, made.audio, edits)).toEqual([0, 0, 0])
  })

  it('values of links: the same', () => {
    const { project, audio } = rig()
    const edits = [
      updateLink('early', { from: 0.11, to: 0.47 }),
      updateLink('late', { amount: 0.31 }),
      updateLink('rate', { amount: -0.7 }),
    ]
    expect(differing(project, audio, edits)).toEqual([0, 0, 0])
  })

  it('a variant that fails says so, and the next one is rendered', () => {
    const made = projectOf(noise(1.37, 5, 0.2), [newEffect('gain', { level: -6 }, 'g')])
    const create = vi.spyOn(effectDefinition('gain')!, 'create').mockImplementation(() => ({
      process: ({ in: input, out }, p) => {
        if ((p as unknown as { level: { value: number } }).level.value > 1) throw new Error('a fault')
        out.left.set(input.left)
        out.right.set(input.right)
      },
      reset: () => {},
    }))
    const replay = new Replay(planRender(made.project, range), made.audio)
    const at = (level: number) => planRender(edited(made.project, setParam('g', 'level', level)), range)
    expect(replay.of(at(-9))[0].some((x) => x !== 0)).toBe(true)
    expect(() => replay.of(at(3.7))).toThrow('failed')
    expect(replay.of(at(-9))[0].some((x) => x !== 0)).toBe(true)
    create.mockRestore()
  })
})
