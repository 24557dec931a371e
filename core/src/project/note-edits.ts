import { scales } from '../units/tuning'
import type { Edit } from './edit'
import type { Arpeggio, Note, NoteLine } from './schema'
import { trackOf } from './walk'

/** The notes of an edit, by their index in the line. */
type Chosen = ReadonlySet<number>

/** Shortest note, in quarter notes. */
export const SHORTEST_NOTE = 1 / 64
const inKeys = (pitch: number): number => Math.min(127, Math.max(0, pitch))

export const emptyLine = (length: number): NoteLine => ({ length, notes: [], bend: [], pressure: [] })

/** Sets the notes of a track; null for none. */
export const setNoteLine =
  (track: string, line: NoteLine | null): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (t) t.line = line
  }

/** Changes the line of a track; without one, it starts with an empty line of so many quarter notes. */
export const editLine =
  (track: string, how: (line: NoteLine) => NoteLine, length = 16): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (t) t.line = how(JSON.parse(JSON.stringify(t.line ?? emptyLine(length))) as NoteLine)
  }

export const setArpeggio =
  (track: string, arpeggio: Arpeggio | null): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (t) t.arpeggio = arpeggio
  }

/** @param seconds late, −0.05…0.05 */
export const setNoteOffset =
  (track: string, seconds: number): Edit =>
  (p) => {
    const t = trackOf(p, track)
    if (t) t.noteOffset = Math.min(0.05, Math.max(-0.05, seconds))
  }

const changed = (line: NoteLine, chosen: Chosen, how: (note: Note, index: number) => Note): NoteLine => ({
  ...line,
  notes: line.notes.map((n, i) => (chosen.has(i) ? how(n, i) : n)),
})

export const addNotes = (line: NoteLine, notes: readonly Note[]): NoteLine => ({
  ...line,
  notes: [...line.notes, ...notes],
})

export const removeNotes = (line: NoteLine, chosen: Chosen): NoteLine => ({
  ...line,
  notes: line.notes.filter((_, i) => !chosen.has(i)),
})

/** Moves notes together, as far as all of them stay on the keys and behind the start. */
export function moveNotes(line: NoteLine, chosen: Chosen, beats: number, semitones: number): NoteLine {
  const moved = line.notes.filter((_, i) => chosen.has(i))
  const by = Math.max(beats, -Math.min(...moved.map((n) => n.start)))
  const up = Math.min(
    Math.max(semitones, -Math.min(...moved.map((n) => n.pitch))),
    127 - Math.max(...moved.map((n) => n.pitch)),
  )
  return changed(line, chosen, (n) => ({ ...n, start: n.start + by, pitch: n.pitch + up }))
}

/** Makes notes longer or shorter by so many quarter notes. */
export const stretchNotes = (line: NoteLine, chosen: Chosen, beats: number): NoteLine =>
  changed(line, chosen, (n) => ({ ...n, length: Math.max(SHORTEST_NOTE, n.length + beats) }))

/** Moves the starts of notes and leaves their ends. */
export const trimNotes = (line: NoteLine, chosen: Chosen, beats: number): NoteLine =>
  changed(line, chosen, (n) => {
    const start = Math.min(Math.max(0, n.start + beats), n.start + n.length - SHORTEST_NOTE)
    return { ...n, start, length: n.start + n.length - start }
  })

export const setVelocities = (line: NoteLine, chosen: Chosen, velocity: (note: Note) => number): NoteLine =>
  changed(line, chosen, (n) => ({ ...n, velocity: Math.min(1, Math.max(1 / 127, velocity(n))) }))

/**
 * Brings starts nearer to a grid.
 * @param strength share of the way, 0…1
 * @param swing share of a step by which every second one is late, 0…0.75
 */
export function quantiseNotes(
  line: NoteLine,
  chosen: Chosen,
  grid: number,
  strength: number,
  swing = 0,
): NoteLine {
  const nearest = (start: number): number => {
    const n = Math.floor(start / grid)
    let best = 0
    for (const k of [n - 1, n, n + 1, n + 2]) {
      const at = (k + (k % 2 === 0 ? 0 : swing)) * grid
      if (k >= 0 && Math.abs(at - start) < Math.abs(best - start)) best = at
    }
    return best
  }
  return changed(line, chosen, (n) => ({ ...n, start: n.start + (nearest(n.start) - n.start) * strength }))
}

/** Each note reaches to the next that begins after it, as far as there is one. */
export function joinNotes(line: NoteLine, chosen: Chosen): NoteLine {
  const starts = [...new Set(line.notes.filter((_, i) => chosen.has(i)).map((n) => n.start))].sort(
    (a, b) => a - b,
  )
  return changed(line, chosen, (n) => {
    const next = starts.find((s) => s > n.start + 1e-9)
    return next === undefined ? n : { ...n, length: next - n.start }
  })
}

/**
 * The same notes once more, right behind the stretch from the first beginning to the last end, on the grid.
 */
export function repeatNotes(
  line: NoteLine,
  chosen: Chosen,
  grid: number,
): { readonly line: NoteLine; readonly chosen: Set<number> } {
  const notes = line.notes.filter((_, i) => chosen.has(i))
  const span = Math.max(...notes.map((n) => n.start + n.length)) - Math.min(...notes.map((n) => n.start))
  const by = grid > 0 ? Math.ceil(span / grid - 1e-9) * grid : span
  const copies = notes.map((n) => ({ ...n, start: n.start + by }))
  return { line: addNotes(line, copies), chosen: new Set(copies.map((_, i) => line.notes.length + i)) }
}

/** Moves notes by so many degrees of a scale on a root; notes between its degrees go with the one below. */
export function shiftInScale(
  line: NoteLine,
  chosen: Chosen,
  degrees: number,
  root: number,
  scale: number,
): NoteLine {
  const steps = scales[scale]?.degrees ?? scales[0].degrees
  return changed(line, chosen, (n) => {
    const octave = Math.floor((n.pitch - root) / 12)
    const within = n.pitch - root - 12 * octave
    const at = steps.filter((d) => d <= within).length - 1
    const to = octave * steps.length + at + degrees
    const whole = Math.floor(to / steps.length)
    return {
      ...n,
      pitch: inKeys(root + 12 * whole + (steps[to - whole * steps.length] ?? 0) + within - (steps[at] ?? 0)),
    }
  })
}

/** Longer or shorter in time as a whole, about the first beginning: twice for half the tempo. */
export function scaleNotes(line: NoteLine, chosen: Chosen, factor: number): NoteLine {
  const first = Math.min(...line.notes.filter((_, i) => chosen.has(i)).map((n) => n.start))
  return changed(line, chosen, (n) => ({
    ...n,
    start: first + (n.start - first) * factor,
    length: Math.max(SHORTEST_NOTE, n.length * factor),
  }))
}

/** A step of a grid: strikes where nothing begins, and takes away what does. */
export function toggleStep(
  line: NoteLine,
  pitch: number,
  start: number,
  grid: number,
  velocity: number,
): NoteLine {
  const there = (n: Note): boolean =>
    n.pitch === pitch && n.start >= start - 1e-6 && n.start < start + grid - 1e-6
  return line.notes.some(there)
    ? { ...line, notes: line.notes.filter((n) => !there(n)) }
    : addNotes(line, [{ start, length: grid, pitch, velocity }])
}

/** Joins a take to a line: notes of several passes, mapped into its length. */
export function overdub(line: NoteLine, take: readonly Note[]): NoteLine {
  return addNotes(
    line,
    line.length > 0
      ? take.map((n) => ({ ...n, start: n.start - Math.floor(n.start / line.length) * line.length }))
      : take,
  )
}
