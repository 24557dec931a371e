import { describe, expect, it } from 'vitest'
import {
  addNotes,
  editLine,
  joinNotes,
  moveNotes,
  overdub,
  quantiseNotes,
  removeNotes,
  repeatNotes,
  scaleNotes,
  setArpeggio,
  setNoteOffset,
  setVelocities,
  shiftInScale,
  stretchNotes,
  toggleStep,
  trimNotes,
} from '@oleaje/core/project/note-edits'
import { apply } from '@oleaje/core/project/edit'
import { newProject, newTrack } from '@oleaje/core/project/new'
import { type NoteLine, arpeggioSchema } from '@oleaje/core/project/schema'

const line = (...notes: [number, number, number, number?][]): NoteLine => ({
  length: 4,
  bend: [],
  pressure: [],
  notes: notes.map(([start, length, pitch, velocity = 0.8]) => ({ start, length, pitch, velocity })),
})
const all = new Set([0, 1, 2, 3])
const starts = (l: NoteLine): number[] => l.notes.map((n) => n.start)
const pitches = (l: NoteLine): number[] => l.notes.map((n) => n.pitch)

describe('edits of notes', () => {
  it('move notes together, and stop at the ends of the keys and the start of the line', () => {
    const l = line([0.5, 1, 60], [1.25, 1, 64])
    expect(moveNotes(l, new Set([1]), 0.37, -2).notes).toEqual([
      l.notes[0],
      { start: 1.62, length: 1, pitch: 62, velocity: 0.8 },
    ])
    expect(starts(moveNotes(l, all, -3, 0))).toEqual([0, 0.75])
    expect(pitches(moveNotes(l, all, 0, 200))).toEqual([123, 127])
    expect(pitches(moveNotes(l, all, 0, -200))).toEqual([0, 4])
  })
  it('lengthen, trim, join and scale', () => {
    const l = line([0, 0.5, 60], [1, 0.25, 62], [1, 2, 65], [3, 0.5, 60])
    expect(stretchNotes(l, new Set([0]), -9).notes[0]!.length).toBe(1 / 64)
    expect(trimNotes(l, new Set([2]), 0.75).notes[2]).toMatchObject({ start: 1.75, length: 1.25 })
    expect(trimNotes(l, new Set([1]), 5).notes[1]!.start).toBeCloseTo(1.25 - 1 / 64, 9)
    expect(joinNotes(l, all).notes.map((n) => n.length)).toEqual([1, 2, 2, 0.5])
    expect(scaleNotes(l, all, 2).notes.map((n) => [n.start, n.length])).toEqual([
      [0, 1],
      [2, 0.5],
      [2, 4],
      [6, 1],
    ])
  })
  it('quantise by a share of the way, with swing', () => {
    const l = line([0.03, 1, 60], [0.29, 1, 61], [0.6, 1, 62])
    expect(starts(quantiseNotes(l, all, 0.25, 1))).toEqual([0, 0.25, 0.5])
    expect(quantiseNotes(l, all, 0.25, 0.5).notes[2]!.start).toBeCloseTo(0.55, 9)
    expect(starts(quantiseNotes(l, all, 0.25, 1, 0.3)).map((x) => Math.round(x * 1000) / 1000)).toEqual([
      0, 0.325, 0.5,
    ])
  })
  it('shift along a scale, repeat on the grid, set velocities within their range', () => {
    expect(pitches(shiftInScale(line([0, 1, 57], [0, 1, 60], [0, 1, 61]), all, 2, 9, 2))).toEqual([
      60, 64, 65,
    ])
    expect(pitches(shiftInScale(line([0, 1, 60]), all, -7, 0, 1))).toEqual([48])
    const repeated = repeatNotes(line([0, 0.5, 60], [0.5, 0.6, 62]), all, 0.5)
    expect(starts(repeated.line)).toEqual([0, 0.5, 1.5, 2])
    expect(repeated.chosen).toEqual(new Set([2, 3]))
    expect(setVelocities(line([0, 1, 60]), all, () => 7).notes[0]!.velocity).toBe(1)
    expect(setVelocities(line([0, 1, 60]), all, () => 0).notes[0]!.velocity).toBeCloseTo(1 / 127)
  })
  it('strike and clear steps, remove, overdub rounds into the line’s length', () => {
    const struck = toggleStep(line(), 38, 0.75, 0.25, 0.6)
    expect(struck.notes).toEqual([{ start: 0.75, length: 0.25, pitch: 38, velocity: 0.6 }])
    expect(toggleStep(struck, 38, 0.75, 0.25, 0.6).notes).toEqual([])
    expect(toggleStep(struck, 36, 0.75, 0.25, 0.6).notes).toHaveLength(2)
    expect(pitches(removeNotes(line([0, 1, 60], [1, 1, 61]), new Set([0])))).toEqual([61])
    expect(starts(overdub(line([0, 1, 60]), [{ start: 9.5, length: 1, pitch: 61, velocity: 1 }]))).toEqual([
      0, 1.5,
    ])
  })
  it('reach the track as one edit each, which makes a line where there is none', () => {
    const project = newProject('notes')
    project.tracks.unshift(newTrack('Melody', null, 'm'))
    const edit = (e: Parameters<typeof apply>[1]) => apply(project, e).next.tracks[0]!
    expect(edit(editLine('m', (l) => addNotes(l, line([0, 1, 60]).notes), 8)).line).toEqual({
      ...line([0, 1, 60]),
      length: 8,
    })
    expect(edit(setNoteOffset('m', -3)).noteOffset).toBe(-0.05)
    expect(edit(setArpeggio('m', arpeggioSchema.parse({ order: 'down' }))).arpeggio?.order).toBe('down')
  })
})
