import { describe, expect, it, vi } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { effectDefinition } from '@oleaje/core/effects/index'
import { Engine } from '@oleaje/core/engine/engine'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { NoteLineStep } from '@oleaje/core/engine/note-line-step'
import { sourceDefinition } from '@oleaje/core/sources/index'
import { newBranch, newEffect, newSource, newSplit } from '@oleaje/core/project/new'
import { checkProject } from '@oleaje/core/project/read'
import { planRender, render } from '@oleaje/core/render/render'
import { edited, projectOf } from './project-rig'
import { RATE, peak, sine } from './rig'

const sound = sine(311, 1, 0.5)

/** Plays blocks of a project of which something is made to throw, and gives the mix and what was told. */
function played(
  p: ReturnType<typeof projectOf>['project'],
  audio: ReturnType<typeof projectOf>['audio'],
  blocks = 400,
) {
  const told: string[] = []
  const engine = new Engine({ sampleRate: RATE, audio, looping: true, onFault: (key) => told.push(key) })
  engine.load(p)
  engine.play(0)
  const out = new Float32Array(blocks * BLOCK)
  const l = new Float32Array(BLOCK),
    r = new Float32Array(BLOCK)
  for (let b = 0; b < blocks; b++) {
    engine.process(l, r)
    out.set(engine.mix.left, b * BLOCK)
  }
  return { engine, told, out }
}

describe('what throws while it plays', () => {
  it('is cut where it is an effect, which lets through what comes; it is named, and goes on when that has been seen', () => {
    const { project, audio } = projectOf(sound, [
      newEffect('drive', {}, 'd'),
      newEffect('gain', { level: -6 }, 'g'),
    ])
    const definition = effectDefinition('drive')!
    let broken = true
    const create = vi.spyOn(definition, 'create').mockImplementation(() => ({
      process: (io) => {
        if (broken) throw new Error('a fault')
        io.out.left.set(io.in.left)
        io.out.right.set(io.in.right)
      },
      reset: () => {},
    }))
    const { engine, told, out } = played(project, audio)
    create.mockRestore()
    expect(told).toEqual(['node:d'])
    // through the gain of −6 dB, as it is without the drive
    expect(peak(out.subarray(200 * BLOCK))).toBeCloseTo(0.5 * 10 ** (-6 / 20), 2)
    broken = false
    engine.acknowledge('d')
    for (let b = 0; b < 50; b++) engine.process(new Float32Array(BLOCK), new Float32Array(BLOCK))
    expect(told).toEqual(['node:d'])
  })
  it('makes a render none, and says why', () => {
    const { project, audio } = projectOf(sound, [newEffect('drive', {}, 'd')])
    const create = vi.spyOn(effectDefinition('drive')!, 'create').mockImplementation(() => ({
      process: () => {
        throw new Error('a fault')
      },
      reset: () => {},
    }))
    expect(() => [...render(planRender(project, { from: 0, to: 0.37, tail: 0 }), audio)]).toThrow(
      '“Drive” failed, so the render would be incomplete. Remove it or turn it off.',
    )
    create.mockRestore()
  })
  it('gives no more notes where it is a line of notes, and no more sound of any pad where it is a kit', () => {
    const { project, audio } = projectOf(sound, [])
    const track = project.tracks[0]!
    track.source = {
      ...newSource('kit', {}, null, 'src'),
      lanes: { pads: [{ note: 36 }, { note: 37 }] },
      data: {
        pads: [
          { name: 'a', audio: 'x' },
          { name: 'b', audio: 'x' },
        ],
      },
    }
    track.line = {
      length: 4,
      notes: [{ start: 0, length: 1, pitch: 36, velocity: 1 }],
      bend: [],
      pressure: [],
    }
    track.a.nodes = [
      {
        ...newSplit([{ ...newBranch('second', 0, 'second'), pads: [1] }, newBranch('rest')], 'split'),
        mode: 'pads',
      },
    ]
    const run = vi.spyOn(NoteLineStep.prototype, 'run').mockImplementation(function (this: NoteLineStep) {
      this.out.count = 1
      throw new Error('a fault')
    })
    const line = played(project, audio)
    run.mockRestore()
    expect(line.told).toEqual(['notes:t'])
    expect(peak(line.out)).toBe(0)
    const kit = sourceDefinition('kit')!
    const create = vi.spyOn(kit, 'create').mockImplementation(() => ({
      process: ({ outputs }) => {
        for (const { left } of outputs) left.fill(0.3)
        throw new Error('a fault')
      },
      reset: () => {},
    }))
    const { told, out } = played(project, audio)
    create.mockRestore()
    expect(told).toEqual(['source:t'])
    expect(peak(out.subarray(30 * BLOCK))).toBe(0)
  })
  it('is silent where it is a modulator, and all else plays on', () => {
    const { project, audio } = projectOf(sound, [newEffect('gain', {}, 'g')])
    const p = edited(
      project,
      addModulator('t', 'drift', { id: 'm' }),
      addLink('m', { owner: 'g', param: 'level' }, 0.7, 0.75),
    )
    const create = vi.spyOn(modulatorDefinition('drift')!, 'create').mockImplementation(() => ({
      process: () => {
        throw new Error('a fault')
      },
      reset: () => {},
    }))
    const { told, out } = played(p, audio)
    create.mockRestore()
    expect(told).toEqual(['mod:m'])
    expect(peak(out.subarray(200 * BLOCK))).toBeGreaterThan(0.3)
  })
})

describe('lanes with fewer items than they need', () => {
  it.each([
    ['steps', 'steps'],
    ['eq', 'bands'],
    ['taps', 'taps'],
    ['resonators', 'strings'],
  ])('%s with none play as with the least', (type, lane) => {
    const { project, audio } = projectOf(
      sound,
      type === 'steps'
        ? [newEffect('gain', {}, 'g')]
        : [{ ...newEffect(type, {}, 'g'), lanes: { [lane]: [] } }],
    )
    const p =
      type === 'steps'
        ? edited(
            project,
            addModulator('t', 'steps', { id: 'm' }),
            (q) => {
              q.tracks[0]!.modulators[0]!.lanes = { steps: [] }
            },
            addLink('m', { owner: 'g', param: 'level' }, 0.7, 0.75),
          )
        : project
    const { told, out } = played({ ...p, ...checkProject(JSON.parse(JSON.stringify(p))) }, audio)
    expect(told).toEqual([])
    expect(out.every(Number.isFinite)).toBe(true)
    expect(peak(out)).toBeGreaterThan(0.01)
  })
})
