import { readNumber } from '../units/read-number'
import { exp2, log2 } from './math'

/** A point of a drawn shape and the bend of the way to the next one, −1…1. */
export interface Point { readonly x: number, readonly y: number, readonly bend: number }

/** Bends 0…1 by −1…1: straight at 0, late rise above, early rise below. Ends stay where they are. */
export function bend(x: number, curve: number): number {
  if (curve === 0) return x
  const k = exp2(4 * Math.abs(curve)) - 1
  return curve > 0 ? (exp2(x * log2(k + 1)) - 1) / k : 1 - (exp2((1 - x) * log2(k + 1)) - 1) / k
}

/** Takes what a file or an edit says a shape is: points in order of x, y and bend within bounds. Never throws. */
export function readPoints(raw: unknown, longest: number): Point[] {
  if (!Array.isArray(raw)) return []
  return raw.slice(0, 10_000).filter((p): p is Record<string, unknown> => typeof p === 'object' && p !== null)
    .map((p) => ({ x: readNumber(p.x, 0, longest, 0), y: readNumber(p.y, 0, 1, 0), bend: readNumber(p.bend, -1, 1, 0) })).sort((a, b) => a.x - b.x)
}

/**
 * A shape of bent segments between points, read at x; before its first and after its last point it stays level. Points at
 * the same x make a step. Reading remembers its segment, so going through in order costs one comparison.
 */
export class DrawnShape {
  private xs = new Float64Array([0])
  private ys = new Float64Array([0])
  private bends = new Float64Array(1)
  private count = 1
  private segment = 0

  constructor(points: readonly Point[] = []) { this.set(points) }

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
    this.segment = k
    if (k + 1 >= count) return ys[count - 1]
    const span = xs[k + 1] - xs[k]
    const t = span > 0 ? (x - xs[k]) / span : 1
    const b = this.bends[k]
    return ys[k] + (ys[k + 1] - ys[k]) * (b === 0 ? t : bend(t, b))
  }
}
