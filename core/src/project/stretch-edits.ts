import { DrawnShape, type Point, readPoints } from '../dsp/drawn-shape'
import { firstCurve } from '../modulators/curve'
import { type Span, replaceSpan } from './curve-edits'
import { type Edit, together } from './edit'
import { addNotes, editLine } from './note-edits'
import type { Modulator, Note, Project } from './schema'
import { setData, setParam } from './value-edits'
import { trackOf } from './walk'

/** A lane along the song: the notes of a track, or a curve. */
export type SongLane =
  { readonly kind: 'notes'; readonly track: string } | { readonly kind: 'curve'; readonly modulator: string }

/** Copied content of a range over lanes, in their order, relative to the start of the range. */
export interface CopiedStretch {
  /** In quarter notes. */
  readonly length: number
  readonly lanes: readonly (
    | { readonly kind: 'notes'; readonly notes: readonly Note[] }
    | { readonly kind: 'curve'; readonly points: readonly Point[] }
  )[]
}

/** Least distance of two points that lie at the two sides of a step. */
const APART = 1e-6
const begins = (n: Note, s: Span): boolean => n.start >= s.from - 1e-9 && n.start < s.to - 1e-9
const curveOf = (p: Project, id: string): Modulator | undefined =>
  p.tracks.flatMap((t) => t.modulators).find((m) => m.id === id)
const pointsOf = (m: Modulator | undefined): readonly Point[] => {
  const points = readPoints(m?.data?.points, 1024)
  return points.length ? points : firstCurve
}

/** A stretch of a curve by itself, with its heights at both ends. */
function cutOut(points: readonly Point[], span: Span): Point[] {
  const shape = new DrawnShape(points)
  const inside = points
    .filter((q) => q.x > span.from + APART && q.x < span.to - APART)
    .map((q) => ({ ...q, x: q.x - span.from }))
  return [
    { x: 0, y: shape.at(span.from), bend: 0 },
    ...inside,
    { x: span.to - span.from - APART, y: shape.at(span.to - APART), bend: 0 },
  ]
}

/** Copies what lies in a stretch of some lanes: notes that begin in it, and the courses of curves. */
export function copyStretch(p: Project, span: Span, lanes: readonly SongLane[]): CopiedStretch {
  return {
    length: span.to - span.from,
    lanes: lanes.map((lane) =>
      lane.kind === 'notes'
        ? {
            kind: 'notes',
            notes: (trackOf(p, lane.track)?.line?.notes ?? [])
              .filter((n) => begins(n, span))
              .map((n) => ({ ...n, start: n.start - span.from })),
          }
        : { kind: 'curve', points: cutOut(pointsOf(curveOf(p, lane.modulator)), span) },
    ),
  }
}

/** Empties a stretch: notes that begin in it go, and curves go straight from one end of it to the other. */
export const clearStretch = (span: Span, lanes: readonly SongLane[]): Edit =>
  over(lanes, (lane) =>
    lane.kind === 'notes'
      ? editLine(lane.track, (l) => ({ ...l, notes: l.notes.filter((n) => !begins(n, span)) }))
      : changeCurve(lane.modulator, (points) => {
          const shape = new DrawnShape(points)
          return replaceSpan(
            points,
            span,
            [span.from, span.to].map((x) => ({ x, y: shape.at(x), bend: 0 })),
          )
        }),
  )

/**
 * Puts what was copied into lanes from a place on, one after the other, in place of what is there. A lane of
 * another kind is left alone; one that is too short becomes longer.
 */
export const pasteStretch = (copied: CopiedStretch, at: number, lanes: readonly SongLane[]): Edit => {
  const span = { from: at, to: at + copied.length }
  return over(lanes, (lane, k) => {
    const from = copied.lanes[k]
    if (lane.kind === 'notes' && from?.kind === 'notes') {
      return editLine(lane.track, (l) =>
        reaching(
          addNotes(
            { ...l, notes: l.notes.filter((n) => !begins(n, span)) },
            from.notes.map((n) => ({ ...n, start: n.start + at })),
          ),
          span.to,
        ),
      )
    }
    if (lane.kind === 'curve' && from?.kind === 'curve')
      return layCurve(
        lane.modulator,
        from.points.map((q) => ({ ...q, x: q.x + at })),
        span,
      )
    return nothing
  })
}

/** The stretch once more behind itself, in place of what is there. */
export const repeatStretch =
  (span: Span, lanes: readonly SongLane[]): Edit =>
  (p) => {
    pasteStretch(copyStretch(p, span, lanes), span.to, lanes)(p)
  }

/**
 * What lies in a stretch made longer or shorter in time from its beginning; what it comes to lie over goes,
 * and what it leaves is empty.
 */
export const scaleStretch =
  (span: Span, lanes: readonly SongLane[], factor: number): Edit =>
  (p) => {
    const copied = copyStretch(p, span, lanes)
    const scaled: CopiedStretch = {
      length: copied.length * factor,
      lanes: copied.lanes.map((lane) =>
        lane.kind === 'notes'
          ? {
              kind: 'notes',
              notes: lane.notes.map((n) => ({ ...n, start: n.start * factor, length: n.length * factor })),
            }
          : { kind: 'curve', points: lane.points.map((q) => ({ ...q, x: q.x * factor })) },
      ),
    }
    together(clearStretch(span, lanes), pasteStretch(scaled, span.from, lanes))(p)
  }

const nothing: Edit = () => {}
const over = (lanes: readonly SongLane[], edit: (lane: SongLane, k: number) => Edit): Edit =>
  together(...lanes.map(edit))

/** A line that repeats, made long enough for what lies up to a place. */
const reaching = <L extends { readonly length: number }>(line: L, to: number): L =>
  line.length > 0 && line.length < to - 1e-9 ? { ...line, length: to } : line

const changeCurve =
  (id: string, how: (points: readonly Point[]) => Point[]): Edit =>
  (p) => {
    const m = curveOf(p, id)
    if (m) setData(id, 'points', how(pointsOf(m)))(p)
  }

/** Replaces a range of a curve by points; the curve around it stays. */
const layCurve =
  (id: string, points: readonly Point[], span: Span): Edit =>
  (p) => {
    const m = curveOf(p, id)
    if (!m) return
    const before = pointsOf(m)
    const shape = new DrawnShape(before)
    const length = m.params.length ?? 16
    const edges = [
      { x: span.from - APART, y: shape.at(span.from - APART), bend: 0 },
      { x: span.to, y: shape.at(Math.min(length, span.to)), bend: 0 },
    ].filter((q) => q.x > 0 && q.x < Math.max(length, span.to))
    setData(
      id,
      'points',
      replaceSpan(
        replaceSpan(before, { from: span.from - 2 * APART, to: span.to }, edges),
        { from: span.from, to: span.from },
        points,
      ),
    )(p)
    if (length < span.to - 1e-9) setParam(id, 'length', span.to)(p)
  }
