import { limits } from '../limits'
import type { Edit } from './edit'
import type { Control, Project, Section } from './schema'
import { sameTarget } from './target-edits'

export const setTempo =
  (tempo: number): Edit =>
  (p) => {
    p.tempo = Math.min(300, Math.max(20, tempo))
  }

/** Shortest loop and section in beats. */
const SHORTEST = 0.125

export const setLoop =
  (loop: Partial<Project['loop']>): Edit =>
  (p) => {
    setSpan(p.loop, loop)
  }

/** Sets ends of a stretch of the song: in order, and never closer than the shortest there is. */
function setSpan(
  span: { start: number; end: number },
  change: Partial<{ start: number; end: number }>,
): void {
  Object.assign(span, change)
  if (span.end < span.start) [span.start, span.end] = [span.end, span.start]
  span.start = Math.min(limits.beats.most - SHORTEST, Math.max(0, span.start))
  span.end = Math.min(limits.beats.most, span.end)
  if (span.end - span.start >= SHORTEST) return
  // the end that was moved gives way
  if (change.start !== undefined && change.end === undefined && span.end >= SHORTEST)
    span.start = span.end - SHORTEST
  else span.end = span.start + SHORTEST
}

export const renameProject =
  (name: string): Edit =>
  (p) => {
    p.name = name.trim().slice(0, 120) || p.name
  }

export const addSection =
  (section: Section): Edit =>
  (p) => {
    const placed = { ...section }
    setSpan(placed, {})
    p.sections.push(placed)
    p.sections.sort((a, b) => a.start - b.start)
  }

export const updateSection =
  (id: string, change: Partial<Omit<Section, 'id'>>): Edit =>
  (p) => {
    const section = p.sections.find((s) => s.id === id)
    if (section) setSpan(section, change)
  }

export const removeSection =
  (id: string): Edit =>
  (p) => {
    p.sections = p.sections.filter((s) => s.id !== id)
  }

/** Assigns a control of a device to a parameter; an existing assignment is replaced. */
export const setControl =
  (control: Control): Edit =>
  (p) => {
    p.controls = [
      ...p.controls.filter((c) => c.id !== control.id && !sameTarget(c.target, control.target)),
      control,
    ]
  }

export const removeControl =
  (id: string): Edit =>
  (p) => {
    p.controls = p.controls.filter((c) => c.id !== id)
  }
