import { readNumber } from '../units/read-number'
import { exp2, exp2Block } from './math'

/** A point of a drawn shape and the bend of the way to the next one, −1…1. */
export interface Point {
  readonly x: number
  readonly y: number
  readonly bend: number
}

/** Bends below this are straight: there the way cannot be told from a line, nor worked out. */
const STRAIGHT = 1e-6

/** Bends 0…1 by −1…1: straight at 0, late rise above, early rise below. Ends stay where they are. */
export function bend(x: number, curve: number): number {
  if (Math.abs(curve) < STRAIGHT) return x
  const s = 4 * Math.abs(curve)
  const k = exp2(s) - 1
  return curve > 0 ? (exp2(x * s) - 1) / k : 1 - (exp2((1 - x) * s) - 1) / k
}

/** {@link bend} of a block or of a part of it, in place. */
export function bendBlock(x: Float64Array, curve: number, from = 0, to = x.length): void {
  if (Math.abs(curve) < STRAIGHT) return
  const s = 4 * Math.abs(curve)
  const k = exp2(s) - 1
  if (curve > 0) for (let i = from; i < to; i++) x[i] *= s
  else for (let i = from; i < to; i++) x[i] = (1 - x[i]) * s
  exp2Block(x, from, to)
  if (curve > 0) for (let i = from; i < to; i++) x[i] = (x[i] - 1) / k
  else for (let i = from; i < to; i++) x[i] = 1 - (x[i] - 1) / k
}

/**
 * Takes what a file or an edit says a shape is: points in order of x, y and bend within bounds. Never throws.
 */
export function readPoints(raw: unknown, longest: number): Point[] {
  if (!Array.isArray(raw)) return []
  return raw
    .slice(0, 10_000)
    .filter((p): p is Record<string, unknown> => typeof p === 'object' && p !== null)
    .map((p) => ({
      x: readNumber(p.x, 0, longest, 0),
      y: readNumber(p.y, 0, 1, 0),
      bend: readNumber(p.bend, -1, 1, 0),
    }))
    .sort((a, b) => a.x - b.x)
}

/**
 * A shape of bent segments between points, read at x; before its first and after its last point it stays
 * level. Points at the same x make a step. Reading remembers its segment, so going through in order costs one
 * comparison.
 */
export class DrawnShape {
  private xs = new Float64Array([0])
  private ys = new Float64Array([0])
  private bends = new Float64Array(1)
  private count = 1
  private segment = 0

  constructor(points: readonly Point[] = []) {
    this.set(points)
  }

  set(points: readonly Point[]): void {
    this.count = Math.max(1, points.length)
    this.xs = new Float64Array(this.count)
    this.ys = new Float64Array(this.count)
    this.bends = new Float64Array(this.count)
    this.segment = 0
    points.forEach((p, i) => {
      this.xs[i] = p.x
      this.ys[i] = p.y
      this.bends[i] = p.bend
    })
  }

  at(x: number): number {
    const { xs, ys, count } = this
    if (x < xs[0]) return ys[0]
    const k = (this.segment = this.segmentAt(x))
    if (k + 1 >= count) return ys[count - 1]
    const span = xs[k + 1] - xs[k]
    const t = span > 0 ? (x - xs[k]) / span : 1
    const b = this.bends[k]
    return ys[k] + (ys[k + 1] - ys[k]) * (b === 0 ? t : bend(t, b))
  }

  /** {@link at} of a block of places, in place. */
  read(x: Float64Array): void {
    const { xs, ys, bends, count } = this
    for (let i = 0; i < x.length;) {
      const k = x[i] < xs[0] ? -1 : (this.segment = this.segmentAt(x[i]))
      // as far as this segment goes
      const low = k < 0 ? -Infinity : xs[k]
      const high = k + 1 < count ? xs[k + 1] : Infinity
      let end = i + 1
      while (end < x.length && x[end] >= low && x[end] < high) end++
      if (k < 0 || k + 1 >= count) x.fill(ys[k < 0 ? 0 : k], i, end)
      else {
        const span = high - low
        for (let j = i; j < end; j++) x[j] = (x[j] - low) / span
        bendBlock(x, bends[k], i, end)
        for (let j = i; j < end; j++) x[j] = ys[k] + (ys[k + 1] - ys[k]) * x[j]
      }
      i = end
    }
  }

  /** The last point at or before x, which is not before the first. */
  private segmentAt(x: number): number {
    const { xs, count } = this
    let k = this.segment
    if (k >= count || x < xs[k]) {
      let low = 0
      let high = count - 1
      while (low < high) {
        const middle = (low + high + 1) >> 1
        if (xs[middle] <= x) low = middle
        else high = middle - 1
      }
      k = low
    }
    while (k + 1 < count && x >= xs[k + 1]) k++
    return k
  }
}
