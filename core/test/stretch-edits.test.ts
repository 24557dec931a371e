import { describe, expect, it } from 'vitest'
import { DrawnShape, type Point } from '@oleaje/core/dsp/drawn-shape'
import { apply, type Edit } from '@oleaje/core/project/edit'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { readProject } from '@oleaje/core/project/read'
import type { Note, Project } from '@oleaje/core/project/schema'
import {
  type SongLane,
  clearStretch,
  copyStretch,
  pasteStretch,
  repeatStretch,
  scaleStretch,
} from '@oleaje/core/project/stretch-edits'
import { setData, setParam } from '@oleaje/core/project/value-edits'

const note = (start: number, pitch: number, length = 0.37): Note => ({ start, length, pitch, velocity: 0.7 })
const point = (x: number, y: number, bend = 0): Point => ({ x, y, bend })
const line: SongLane = { kind: 'notes', track: 'keys' }
const other: SongLane = { kind: 'notes', track: 'bells' }
const curve: SongLane = { kind: 'curve', modulator: 'tide' }
const lanes = [line, curve, other]

/** Two tracks with notes and a curve of seven beats on the first. */
function song(): Project {
  const project = newProject('Night Ferry')
  for (const [id, notes] of [
    ['bells', [note(1.5, 80), note(4, 81)]],
    ['keys', [note(0, 60), note(1, 61), note(2.99, 62), note(3, 63, 2), note(5.5, 64)]],
  ] as const) {
    const track = newTrack(id, newSource('played'), id)
    track.line = { length: 7, notes: [...notes], bend: [], pressure: [] }
    project.tracks.unshift(track)
  }
  return [
    addModulator('keys', 'curve', { id: 'tide' }),
    setParam('tide', 'length', 7),
    setData('tide', 'points', [point(0, 0.2), point(1.5, 0.8, 0.4), point(3, 0.1), point(7, 0.9)]),
  ].reduce((p: Project, e: Edit) => apply(p, e).next, project)
}
const after = (edit: Edit, p = song()): Project => readProject(JSON.stringify(apply(p, edit).next))
const notesOf = (p: Project, id: string): [number, number][] =>
  p.tracks
    .find((t) => t.id === id)!
    .line!.notes.map((n) => [n.start, n.pitch] as [number, number])
    .sort((a, b) => a[0] - b[0])
const tide = (p: Project) => p.tracks.find((t) => t.id === 'keys')!.modulators[0]!
const at = (p: Project, x: number): number => new DrawnShape(tide(p).data!.points as unknown as Point[]).at(x)
const span = { from: 1, to: 3 }

describe('a stretch over several lanes', () => {
  it('cut: the notes that begin in it go, a curve goes straight over it, and nothing else changes', () => {
    const p = after(clearStretch(span, lanes))
    expect(notesOf(p, 'keys')).toEqual([
      [0, 60],
      [3, 63],
      [5.5, 64],
    ])
    expect(notesOf(p, 'bells')).toEqual([[4, 81]])
    const before = song()
    for (const x of [0.3, 0.99, 1, 3, 4.7, 7]) expect(at(p, x)).toBeCloseTo(at(before, x), 5)
    expect(at(p, 2)).toBeCloseTo((at(before, 1) + at(before, 3)) / 2, 6)
  })
  it('copied and pasted elsewhere is the same there, whatever was there', () => {
    const before = song()
    const copied = copyStretch(before, span, lanes)
    const p = after(pasteStretch(copied, 4, lanes))
    expect(notesOf(p, 'keys')).toEqual([
      [0, 60],
      [1, 61],
      [2.99, 62],
      [3, 63],
      [4, 61],
      [5.99, 62],
    ])
    expect(notesOf(p, 'bells')).toEqual([
      [1.5, 80],
      [4.5, 80],
    ])
    for (const x of [0.01, 0.4, 1.1, 1.99]) expect(at(p, 4 + x)).toBeCloseTo(at(before, 1 + x), 3)
    for (const x of [0.5, 2.7, 3.9, 6.001, 6.6]) expect(at(p, x)).toBeCloseTo(at(before, x), 3)
  })
  it('repeated lies once more behind itself, and lanes that are too short become longer', () => {
    const p = after(repeatStretch({ from: 4, to: 7 }, lanes))
    expect([p.tracks.find((t) => t.id === 'keys')!.line!.length, tide(p).params.length]).toEqual([10, 10])
    expect(notesOf(p, 'keys').slice(-2)).toEqual([
      [5.5, 64],
      [8.5, 64],
    ])
    expect(notesOf(p, 'bells')).toEqual([
      [1.5, 80],
      [4, 81],
      [7, 81],
    ])
    for (const x of [4.2, 5.7, 6.9]) expect(at(p, x + 3)).toBeCloseTo(at(song(), x), 3)
  })
  it('scaled goes over its time faster or slower', () => {
    const slow = after(scaleStretch(span, lanes, 2))
    expect(notesOf(slow, 'keys')).toEqual([
      [0, 60],
      [1, 61],
      [4.98, 62],
      [5.5, 64],
    ])
    for (const x of [0.2, 0.9, 1.7]) expect(at(slow, 1 + 2 * x)).toBeCloseTo(at(song(), 1 + x), 3)
    expect(at(slow, 5.5)).toBeCloseTo(at(song(), 5.5), 3)
    const fast = after(scaleStretch(span, lanes, 0.5))
    expect(notesOf(fast, 'keys')).toEqual([
      [0, 60],
      [1, 61],
      [1.995, 62],
      [3, 63],
      [5.5, 64],
    ])
    for (const x of [0.2, 0.9, 1.7]) expect(at(fast, 1 + x / 2)).toBeCloseTo(at(song(), 1 + x), 3)
    expect(
      fast.tracks.find((t) => t.id === 'keys')!.line!.notes.find((n) => n.pitch === 61)!.length,
    ).toBeCloseTo(0.185, 9)
  })
  it('goes only into lanes of its kinds, and can be undone to the bit', () => {
    const before = song()
    const copied = copyStretch(before, span, [line, curve])
    const { next, inverse } = apply(before, pasteStretch(copied, 4, [curve, other]))
    expect(next).toEqual(before)
    expect(inverse).toEqual([])
    for (const edit of [
      clearStretch(span, lanes),
      repeatStretch(span, lanes),
      scaleStretch(span, lanes, 2),
    ]) {
      const change = apply(before, edit)
      expect(change.patches.length).toBeGreaterThan(0)
      expect(
        apply(change.next, (p) => {
          Object.assign(p, before)
        }).next,
      ).toEqual(before)
    }
  })
})
