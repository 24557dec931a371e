import { DrawnShape, type Point } from '../dsp/drawn-shape'
import { sinCycles } from '../dsp/math'

/** Shapes that can be inserted into a curve. */
export const insertable = ['sine', 'triangle', 'saw up', 'saw down', 'steps'] as const
export type Insertable = (typeof insertable)[number]

/** A stretch of a curve, in its own unit of x. */
export interface Span {
  readonly from: number
  readonly to: number
}

const inside = (p: Point, s: Span): boolean => p.x >= s.from - 1e-9 && p.x <= s.to + 1e-9
const bounded = (y: number): number => Math.min(1, Math.max(0, y))
const inOrder = (points: Point[]): Point[] => points.sort((a, b) => a.x - b.x)

/** The points of a curve with those of one stretch exchanged for others. */
export function replaceSpan(points: readonly Point[], span: Span, by: readonly Point[]): Point[] {
  return inOrder([...points.filter((p) => !inside(p, span)), ...by])
}

/** Puts `count` periods of a shape into a stretch, between two heights. */
export function insertShape(
  points: readonly Point[],
  span: Span,
  shape: Insertable,
  count: number,
  low = 0,
  high = 1,
): Point[] {
  const period = (span.to - span.from) / count
  const y = (v: number): number => low + (high - low) * v
  const out: Point[] = []
  for (let n = 0; n < count; n++) {
    const at = span.from + n * period
    const add = (x: number, v: number, bend = 0): void => {
      out.push({ x: at + x * period, y: y(v), bend })
    }
    if (shape === 'sine')
      for (let k = 0; k < 8; k++)
        add(k / 8, 0.5 + 0.5 * sinCycles(k / 8), [0.16, -0.16][(k >> 1) % 2 === 1 ? 0 : 1])
    else if (shape === 'triangle') {
      add(0, 0)
      add(0.5, 1)
    } else if (shape === 'saw up') {
      add(0, 0)
      add(1 - 1e-6, 1)
    } else if (shape === 'saw down') {
      add(0, 1)
      add(1 - 1e-6, 0)
    } else {
      const v = count > 1 ? n / (count - 1) : 1
      add(0, v)
      add(1 - 1e-6, v)
    }
  }
  if (shape === 'sine') out.push({ x: span.to, y: y(0.5), bend: 0 })
  if (shape === 'triangle') out.push({ x: span.to, y: y(0), bend: 0 })
  return replaceSpan(points, span, out)
}

/** Stretches heights in a stretch about their middle. */
export function scaleHeights(points: readonly Point[], span: Span, factor: number): Point[] {
  const chosen = points.filter((p) => inside(p, span))
  const middle = chosen.length
    ? (Math.min(...chosen.map((p) => p.y)) + Math.max(...chosen.map((p) => p.y))) / 2
    : 0.5
  return points.map((p) => (inside(p, span) ? { ...p, y: bounded(middle + (p.y - middle) * factor) } : p))
}

/** Upside down: high becomes low. */
export const mirrorHeights = (points: readonly Point[], span: Span): Point[] =>
  points.map((p) => (inside(p, span) ? { ...p, y: 1 - p.y } : p))

/** Backwards: the end of a stretch comes first. Bends turn with their ways. */
export function mirrorTime(points: readonly Point[], span: Span): Point[] {
  const chosen = points.filter((p) => inside(p, span))
  const turned = chosen.map((p, i) => ({
    x: span.from + span.to - p.x,
    y: p.y,
    bend: -(chosen[i - 1]?.bend ?? 0),
  }))
  return replaceSpan(points, span, turned.reverse())
}

/** The points of a curve once more behind itself: twice as long with the same shape twice. */
export const repeatCurve = (points: readonly Point[], length: number): Point[] => [
  ...points.filter((p) => p.x < length - 1e-9),
  ...points.map((p) => ({ ...p, x: p.x + length })),
]

/**
 * Leaves out points that lie within `tolerance` of the straight way between those kept (Douglas & Peucker,
 * "Algorithms for the reduction of the number of points", 1973, with the distance taken in height only).
 * Bends become straight.
 */
export function thin(points: readonly Point[], tolerance: number): Point[] {
  if (points.length < 3) return [...points]
  const keep = new Uint8Array(points.length)
  keep[0] = keep[points.length - 1] = 1
  const open: [number, number][] = [[0, points.length - 1]]
  for (let stretch = open.pop(); stretch; stretch = open.pop()) {
    const [a, b] = stretch
    const p = points[a] as Point
    const q = points[b] as Point
    let worst = tolerance
    let at = -1
    for (let i = a + 1; i < b; i++) {
      const r = points[i] as Point
      const t = q.x > p.x ? (r.x - p.x) / (q.x - p.x) : 0
      const off = Math.abs(r.y - (p.y + (q.y - p.y) * t))
      if (off > worst) {
        worst = off
        at = i
      }
    }
    if (at < 0) continue
    keep[at] = 1
    open.push([a, at], [at, b])
  }
  return points.filter((_, i) => keep[i]).map((p) => ({ ...p, bend: 0 }))
}

/**
 * Makes the end meet the beginning, so that nothing jumps where the curve comes round: over the last stretch
 * it goes straight to where it begins. All before that stays as it is.
 * @param over length of that stretch, in the curve's own unit of x
 */
export function closeEnds(points: readonly Point[], length: number, over: number): Point[] {
  const from = Math.max(0, length - over)
  const shape = new DrawnShape(points)
  const body = points.filter((p) => p.x < from - 1e-9)
  const last = body[body.length - 1]
  // a bent segment that is cut becomes straight
  return [
    ...body.slice(0, -1),
    ...(last ? [{ ...last, bend: points[body.length]?.x === from ? last.bend : 0 }] : []),
    { x: from, y: shape.at(from), bend: 0 },
    { x: length, y: shape.at(0), bend: 0 },
  ]
}

/**
 * A ride over a stretch of song as a curve: it goes where the moments went, stays where it was left until the
 * next of them that was taken in another pass, and jumps where the ride itself did.
 * @param moments heights by x, in order
 * @param grain distance in x up to which two moments belong together
 */
export function curveOfRide(
  moments: readonly (readonly [x: number, y: number])[],
  length: number,
  grain: number,
  tolerance: number,
): Point[] {
  const points: Point[] = []
  moments.forEach(([x, y], i) => {
    const before = moments[i - 1]
    if (before && x - before[0] > grain) points.push({ x: x - grain / 2, y: before[1], bend: 0 })
    points.push({ x, y, bend: 0 })
  })
  const [first, last] = [points[0], points[points.length - 1]]
  if (!first || !last) return []
  return thin(
    [
      ...(first.x > 0 ? [{ ...first, x: 0 }] : []),
      ...points,
      ...(last.x < length ? [{ ...last, x: length }] : []),
    ],
    tolerance,
  )
}

/** Straight from one point to another in place of what lay between. */
export function drawLine(
  points: readonly Point[],
  a: { x: number; y: number },
  b: { x: number; y: number },
): Point[] {
  const [p, q] = a.x <= b.x ? [a, b] : [b, a]
  return replaceSpan(points, { from: p.x, to: q.x }, [
    { x: p.x, y: bounded(p.y), bend: 0 },
    { x: q.x, y: bounded(q.y), bend: 0 },
  ])
}
