import type { Edit } from './edit'
import type { Control, NoteLine, Project, Section } from './schema'
import { sameTarget } from './target-edits'
import { trackOf } from './walk'

export const setTempo = (tempo: number): Edit => (p) => { p.tempo = Math.min(300, Math.max(20, tempo)) }

export const setLoop = (loop: Partial<Project['loop']>): Edit => (p) => {
  Object.assign(p.loop, loop)
  if (p.loop.end < p.loop.start) [p.loop.start, p.loop.end] = [p.loop.end, p.loop.start]
}

export const renameProject = (name: string): Edit => (p) => { p.name = name.slice(0, 120) || p.name }

/** Sets the notes that a track's Notes modulators play; null for none. */
export const setNoteLine = (track: string, line: NoteLine | null): Edit => (p) => {
  const t = trackOf(p, track)
  if (t) t.line = line
}

export const addSection = (section: Section): Edit => (p) => {
  p.sections.push(section)
  p.sections.sort((a, b) => a.start - b.start)
}

export const updateSection = (id: string, change: Partial<Omit<Section, 'id'>>): Edit => (p) => {
  const section = p.sections.find((s) => s.id === id)
  if (!section) return
  Object.assign(section, change)
  if (section.end < section.start) [section.start, section.end] = [section.end, section.start]
}

export const removeSection = (id: string): Edit => (p) => { p.sections = p.sections.filter((s) => s.id !== id) }

/** Lets a control of a device steer a parameter; one that does already is learnt anew. */
export const setControl = (control: Control): Edit => (p) => {
  p.controls = [...p.controls.filter((c) => c.id !== control.id && !sameTarget(c.target, control.target)), control]
}

export const removeControl = (id: string): Edit => (p) => { p.controls = p.controls.filter((c) => c.id !== id) }
