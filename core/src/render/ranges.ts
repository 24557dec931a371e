import { soundsOf } from '../sources/index'
import type { Project } from '../project/schema'
import { RenderError } from './render'

export const rangeKinds = [
  { value: 'loop', text: 'The loop' },
  { value: 'song', text: 'The song' },
  { value: 'sections', text: 'One per section' },
  { value: 'beats', text: 'From beat to beat' },
] as const
export type RangeKind = (typeof rangeKinds)[number]['value']

/** A stretch of the song in beats. */
export interface SongRange {
  readonly name: string
  readonly start: number
  readonly end: number
}

/**
 * Stretches of the song to be rendered.
 * @param beats first beat and the beat after the last, where the kind is `beats`
 * @throws RenderError where there are none
 */
export function rangesOf(project: Project, kind: RangeKind, beats?: readonly [number, number]): SongRange[] {
  switch (kind) {
    case 'loop':
      return [{ name: 'loop', start: project.loop.start, end: project.loop.end }]
    case 'song':
      return [{ name: 'song', start: 0, end: songEnd(project) }]
    case 'sections':
      if (project.sections.length === 0)
        throw new RenderError(
          'The project has no sections. Add them in the Timeline, or choose another range.',
        )
      return [...project.sections].sort((a, b) => a.start - b.start)
    case 'beats': {
      const [start, end] = beats ?? [0, 0]
      if (!(start >= 0 && end > start)) throw new RenderError('The range must end after it starts.')
      return [{ name: `beats ${start}–${end}`, start, end }]
    }
  }
}

/**
 * Beat at which the song ends: the end of its last section; without any, of the longest line of notes, curve,
 * sound or loop.
 */
export function songEnd(project: Project): number {
  if (project.sections.length) return Math.max(...project.sections.map((s) => s.end))
  const perSecond = project.tempo / 60
  return Math.max(
    project.loop.end,
    ...project.tracks.flatMap((t) => [
      t.line?.length ?? 0,
      ...t.modulators.filter((m) => m.type === 'curve').map((m) => m.params.length ?? 16),
      ...(t.source ? soundsOf(t.source) : []).map((hash) => {
        const ref = project.audio[hash]
        return ref ? Math.ceil((ref.frames / ref.sampleRate) * perSecond) : 0
      }),
    ]),
  )
}
