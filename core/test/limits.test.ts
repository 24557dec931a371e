import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { addTrack, removeTrack } from '@oleaje/core/project/chain-edits'
import { FullError } from '@oleaje/core/project/fullness'
import { History, momentOf } from '@oleaje/core/project/history'
import { addSection, setLoop } from '@oleaje/core/project/song-edits'
import { setParam } from '@oleaje/core/project/value-edits'
import { effects } from '@oleaje/core/effects/index'
import { limits, limitsPage, sentenceOf } from '@oleaje/core/limits'
import { modulators } from '@oleaje/core/modulators/index'
import {
  BudgetError,
  checkBudget,
  overBudget,
  ownBudget,
  weigh,
  withinBudget,
} from '@oleaje/core/project/budget'
import { newEffect, newId, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { checkProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { Engine } from '@oleaje/core/engine/engine'
import { edited } from './project-rig'
import { RATE } from './rig'

describe('limits', () => {
  it('stand in docs/limits.md as they are in the code', () => {
    expect(readFileSync(join(import.meta.dirname, '../../docs/limits.md'), 'utf8')).toBe(limitsPage())
  })
  it('have a reason and, where something can pass them, a sentence that says how much is possible', () => {
    for (const [name, l] of Object.entries(limits)) {
      expect(l.why, name).toMatch(/\.$/)
      expect(l.most, name).toBeGreaterThan(0)
    }
    expect(sentenceOf('memory', 3300)).toBe(
      'This project would take 3,300 MB of memory for its effects and modulators; 1,500 MB are available.',
    )
  })
})

const many = (make: (project: Project) => void): Project => {
  const project = structuredClone(newProject('Skerries'))
  project.tracks.unshift(structuredClone(newTrack('Kit', newSource('tone'), 't')))
  make(project)
  return project
}

describe('the budget of a project', () => {
  it.each([
    ['reverb', 2000],
    ['stutter', 60],
  ])('is worked out before anything is made: too many of %s are refused with figures', (type, count) => {
    const project = many((p) => {
      p.tracks[0]!.a.nodes = Array.from({ length: count }, () => newEffect(type))
    })
    expect(() => checkBudget(project, 600)).toThrow(BudgetError)
    expect(() => checkBudget(project, 600)).toThrow(/would take [\d,]+ MB of memory.*1,500 MB are available/)
  })
  it('counts what is held of the past as far as it is written', () => {
    const project = many((p) => {
      p.tracks[0]!.a.nodes = Array.from({ length: 40 }, () => newEffect('stutter'))
    })
    expect(weigh(project, 3).bytes).toBeLessThan(weigh(project, 300).bytes / 5)
    expect(() => checkBudget(project, 3)).not.toThrow()
  })
  it('is told by work as well', () => {
    const project = many((p) => {
      for (let i = 0; i < 63; i++)
        p.tracks.unshift({
          ...structuredClone(p.tracks[0]!),
          id: newId(),
          source: null,
          a: { nodes: Array.from({ length: 20 }, () => newEffect('pitch')) },
        })
    })
    expect(overBudget(weigh(project, 1), ownBudget)).toMatch(/times as long as it plays. At most 20 times/)
  })
  it('leaves out what is over, and only that: what is left is a project, and it plays', () => {
    const project = edited(
      many((p) => {
        p.tracks[0]!.a.nodes = Array.from({ length: 47 }, (_, i) => newEffect('stutter', {}, `e${i}`))
      }),
      addModulator('t', 'lfo', { id: 'l' }),
      addLink('l', { owner: 'e0', param: 'wet' }, 0.1, 0.3),
      addLink('l', { owner: 'e46', param: 'wet' }, 0.1, 0.3),
    )
    const { project: part, left } = withinBudget(project)
    expect(left).toBeGreaterThan(20)
    expect(part.tracks[0]!.a.nodes.length + left).toBe(47)
    expect(overBudget(weigh(part), ownBudget)).toBeUndefined()
    const engine = new Engine({ sampleRate: RATE, audio: () => null })
    engine.load(part)
    engine.play(0)
    for (let i = 0; i < 30; i++) engine.process(new Float32Array(128), new Float32Array(128))
    const small = many((p) => {
      p.tracks[0]!.a.nodes = [newEffect('reverb')]
    })
    expect(withinBudget(small)).toEqual({ project: small, left: 0 })
  })
  it('knows a load of every effect and modulator that is near to what one takes', () => {
    for (const d of [...effects, ...modulators]) {
      expect(d.load.kB, d.id).toBeGreaterThan(5)
      expect(d.load.ns, d.id).toBeGreaterThan(0)
    }
  })
  it('bounds how many things there are, wherever they stand', () => {
    const nested = (depth: number): object => ({
      kind: 'group',
      id: newId(),
      name: 'g',
      params: {},
      nodes: Array.from({ length: depth > 1 ? 8 : 64 }, () =>
        depth > 1 ? nested(depth - 1) : newEffect('gain'),
      ),
    })
    const project = many((p) => {
      p.tracks[0]!.a.nodes = [nested(3)] as never
    })
    expect(() => checkProject(JSON.parse(JSON.stringify(project)))).toThrow(
      /has [\d,]+ effects and containers; at most 2,048 are possible/,
    )
    const wide = many((p) => {
      p.tracks[0]!.a.nodes = Array.from({ length: 65 }, () => newEffect('gain'))
    })
    expect(() => checkProject(JSON.parse(JSON.stringify(wide)))).toThrow(/64 effects in a row at most/)
    const late = many((p) => {
      p.loop = { on: true, start: 0, end: 2e7 }
    })
    expect(() => checkProject(JSON.parse(JSON.stringify(late)))).toThrow(/within 100,000 quarter notes/)
    const loud = many((p) => {
      p.audio = Object.fromEntries(
        Array.from({ length: 10_000 }, (_, i) => [
          `h${i}`,
          { name: 'x', frames: 1, channels: 1, sampleRate: 48_000 },
        ]),
      )
    })
    expect(() => checkProject(JSON.parse(JSON.stringify(loud)))).toThrow(/has 10,000 sounds; at most 512/)
  })
})

describe('a project that is full', () => {
  it('takes no edit that would make more than could be read again, and says so; one that is over can be made less', () => {
    const full = many((p) => {
      while (p.tracks.length < limits.tracks.most)
        p.tracks.unshift({ ...structuredClone(p.tracks[0]!), id: newId(), source: null })
    })
    const history = new History(momentOf(full))
    expect(() => history.edit('Add a track', addTrack(newTrack('one more', newSource('tone'))))).toThrow(
      FullError,
    )
    expect(() => history.edit('Add a track', addTrack(newTrack('one more', newSource('tone'))))).toThrow(
      'A project can have 64 tracks at most.',
    )
    expect([history.project, history.undo.length]).toEqual([full, 0])
    const drag = history.gesture('Drag')
    expect(() => drag.edit(addTrack(newTrack('one more', newSource('tone'))))).toThrow(FullError)
    drag.end()
    expect(history.undo).toHaveLength(0)
    history.edit('Remove a track', removeTrack(full.tracks[0]!.id))
    history.edit('Add a track', addTrack(newTrack('one more', newSource('tone'))))
    expect(history.project.tracks).toHaveLength(64)
    const over = new History(
      momentOf({ ...full, tracks: [{ ...full.tracks[0]!, id: 'more', modulators: [] }, ...full.tracks] }),
    )
    over.edit('Set level', setParam('more', 'level', -3))
    over.edit('Remove a track', removeTrack('more'))
    expect(over.project.tracks).toHaveLength(64)
  })
  it('keeps every place within the song, so that it can be opened again', () => {
    const project = edited(
      many(() => {}),
      setLoop({ start: 1e7, end: 2e7 }),
      addSection({ id: newId(), name: 'coda', start: 3e6, end: 3e6 + 16 }),
    )
    expect(project.loop.end).toBeLessThanOrEqual(limits.beats.most)
    expect(() => checkProject(JSON.parse(JSON.stringify(project)))).not.toThrow()
  })
})
