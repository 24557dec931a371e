import { describe, expect, it } from 'vitest'
import { addSection } from '@oleaje/core/project/song-edits'

import { FullError } from '@oleaje/core/project/fullness'
import { History, momentOf } from '@oleaje/core/project/history'
import { mendProject } from '@oleaje/core/project/mend'
import { newEffect } from '@oleaje/core/project/new'
import { checkProject, readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { Engine } from '@oleaje/core/engine/engine'
import { weigh } from '@oleaje/core/project/budget'
import { RATE, sine } from './rig'
import { projectOf } from './project-rig'

const withLine = (): Project => {
  const { project } = projectOf(sine(311, 0.37), [newEffect('filter', {}, 'f')])
  project.id = 'kept'
  project.tracks[0]!.line = {
    length: 3.7,
    notes: [{ start: 0.37, length: 0.5, pitch: 61, velocity: 0.7 }],
    bend: [],
    pressure: [],
  }
  return project
}

describe('what reading refuses, no edit makes', () => {
  const wrong: Record<string, (p: Project) => void> = {
    'a line that is too long': (p) => (p.tracks[0]!.line!.length = 1e6),
    'a line without a length to speak of': (p) => (p.tracks[0]!.line!.length = 1e-7),
    'a note beyond the song': (p) => (p.tracks[0]!.line!.notes[0]!.start = 1e9),
    'a name of 200 letters': (p) => (p.tracks[0]!.name = 'a'.repeat(200)),
    'too many takes': (p) =>
      (p.tracks[0]!.takes = Array.from({ length: 300 }, (_, i) => ({
        id: `t${i}`,
        name: 't',
        at: 0,
        dry: 'x',
        wet: 'x',
      }))),
    'too many points': (p) =>
      (p.tracks[0]!.line!.bend = Array.from({ length: 10_001 }, (_, i) => ({ x: i / 100, y: 0.5, bend: 0 }))),
    'a number that is none': (p) => (p.tracks[0]!.a.nodes[0]!.params.cutoff = NaN),
    'a parameter by a name of every object': (p) => (p.tracks[0]!.a.nodes[0]!.params.toString = 1 as never),
  }
  it.each(Object.entries(wrong))('%s', (_, edit) => {
    const history = new History(momentOf(withLine()))
    const before = JSON.stringify(history.project)
    expect(() => history.edit('wrong', edit as never)).toThrow(FullError)
    expect(JSON.stringify(history.project)).toBe(before)
    // and by a gesture
    const gesture = history.gesture('wrong')
    expect(() => gesture.edit(edit as never)).toThrow(FullError)
    gesture.end()
    expect(JSON.stringify(history.project)).toBe(before)
    checkProject(JSON.parse(JSON.stringify(history.project)))
  })
  it('sections come to an end, in a sentence', () => {
    const history = new History(momentOf(withLine()))
    expect(() => {
      for (let i = 0; i < 1100; i++)
        history.edit('section', addSection({ id: `s${i}`, name: 's', start: i, end: i + 1 }))
    }).toThrow(/1,024 sections/)
    checkProject(JSON.parse(JSON.stringify(history.project)))
  })
  it('is looked at only where it changed: an edit of a line of 20,000 notes takes few milliseconds', () => {
    const project = withLine()
    project.tracks[0]!.line!.notes = Array.from({ length: 20_000 }, (_, i) => ({
      start: i / 10,
      length: 0.1,
      pitch: 61,
      velocity: 0.7,
    }))
    project.tracks[0]!.line!.length = 2000
    const history = new History(momentOf(project))
    let least = Infinity
    for (let k = 0; k < 5; k++) {
      const start = process.cpuUsage().user
      history.edit('move', (p) => {
        p.tracks[0]!.line!.notes[7]!.pitch = 62 + k
      })
      least = Math.min(least, (process.cpuUsage().user - start) / 1000)
    }
    expect(least).toBeLessThan(250)
  })
})

describe('a kept project that is nearly valid is opened with the part mended and named', () => {
  it.each<[string, (p: Project) => void, RegExp, (p: Project) => unknown, unknown]>([
    [
      'a line too short',
      (p) => (p.tracks[0]!.line!.length = 1e-9),
      /line.length/,
      (p) => p.tracks[0]!.line!.length,
      1 / 64,
    ],
    [
      'a line too long',
      (p) => (p.tracks[0]!.line!.length = 2e5),
      /line.length/,
      (p) => p.tracks[0]!.line!.length,
      100_000,
    ],
    [
      'a loud velocity',
      (p) => (p.tracks[0]!.line!.notes[0]!.velocity = 1.4),
      /velocity/,
      (p) => p.tracks[0]!.line!.notes[0]!.velocity,
      1,
    ],
    [
      'a long name',
      (p) => (p.tracks[0]!.name = 'b'.repeat(150)),
      /name/,
      (p) => p.tracks[0]!.name.length,
      120,
    ],
    [
      'a note that is none',
      (p) => p.tracks[0]!.line!.notes.push({ start: 'x' } as never),
      /notes\[1\]/,
      (p) => p.tracks[0]!.line!.notes.length,
      1,
    ],
    [
      'an effect with no type',
      (p) => p.tracks[0]!.a.nodes.push({ kind: 'effect', id: 'z' } as never),
      /nodes\[1\]/,
      (p) => p.tracks[0]!.a.nodes.length,
      1,
    ],
  ])('%s', (_, spoil, named, look, wanted) => {
    const kept = JSON.parse(JSON.stringify(withLine())) as Project
    spoil(kept)
    expect(() => checkProject(kept)).toThrow()
    const { project, mended } = mendProject(kept)
    expect(mended.join(' ')).toMatch(named)
    expect(look(project)).toBe(wanted)
    expect(project.tracks[0]!.source).toEqual(withLine().tracks[0]!.source)
  })
  it('one that is valid is as it was, and what is no project is refused', () => {
    const kept = JSON.parse(JSON.stringify(withLine())) as Project
    expect(mendProject(kept)).toEqual({ project: checkProject(kept), mended: [] })
    expect(() => mendProject({ format: 'another' })).toThrow(/not an Oleaje project/)
    expect(() => mendProject(null)).toThrow()
  })
})

describe('work is bounded whatever a document says', () => {
  it.each([
    [1e-300, 1],
    [1e-7, 1],
    [1e-3, 20_000],
    [1 / 64, 20_000],
  ])('a line of %d beats with %d notes', (length, count) => {
    const { project, audio } = projectOf(sine(311, 0.2), [])
    project.tracks[0]!.source = { ...project.tracks[0]!.source!, type: 'played', params: { plays: 1 } }
    const notes = Array.from({ length: count }, (_, i) => ({
      start: (i / count) * length,
      length: 1e-6,
      pitch: i % 128,
      velocity: 0.5,
    }))
    project.tracks[0]!.line = { length, notes, bend: [], pressure: [] }
    const engine = new Engine({ sampleRate: RATE, audio })
    engine.load(project)
    engine.play(0)
    const left = new Float32Array(128)
    const right = new Float32Array(128)
    const start = process.cpuUsage().user
    for (let b = 0; b < 100; b++) engine.process(left, right)
    // a hundred blocks are a quarter of a second
    expect((process.cpuUsage().user - start) / 1e6).toBeLessThan(8)
    expect(weigh(project).work).toBeGreaterThan(
      weigh({ ...project, tracks: project.tracks.map((t) => ({ ...t, line: null })) }).work,
    )
  })
})

it.each(['__proto__', 'constructor', 'toString', 'hasOwnProperty', 'valueOf'])(
  '“%s” is a name of nothing in a project',
  (name) => {
    const text = (spoil: (p: Project) => void): string => {
      const p = JSON.parse(JSON.stringify(withLine())) as Project
      spoil(p)
      return JSON.stringify(p)
    }
    const modulator = {
      id: 'm',
      type: name,
      name: 'm',
      letter: 'M',
      hue: 0,
      params: {},
      listens: null,
      inputs: [],
    }
    expect(() => readProject(text((p) => p.tracks[0]!.modulators.push(modulator as never)))).toThrow(
      /cannot be a name|forbidden/,
    )
    expect(() => readProject(text((p) => (p.tracks[0]!.source!.audio = name)))).toThrow()
    expect(() =>
      readProject(
        text((p) =>
          Object.defineProperty(p.tracks[0]!.a.nodes[0]!.params, name, { value: 1, enumerable: true }),
        ),
      ),
    ).toThrow()
    expect(() => readProject(text((p) => (p.tracks[0]!.id = name)))).toThrow()
  },
)

it('a sidechain to a branch that is nowhere is refused', () => {
  const p = withLine()
  const node = newEffect('compressor', {}, 'c')
  node.sidechain = { track: 't', point: 'after', branch: 'nowhere' }
  p.tracks[0]!.a.nodes.push(node)
  expect(() => checkProject(JSON.parse(JSON.stringify(p)))).toThrow(/branch that does not exist/)
})
