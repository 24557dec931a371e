import { describe, expect, it } from 'vitest'
import { DrawnShape, type Point } from '@oleaje/core/dsp/drawn-shape'
import {
  closeEnds,
  curveOfRide,
  drawLine,
  insertShape,
  insertable,
  mirrorHeights,
  mirrorTime,
  repeatCurve,
  scaleHeights,
  thin,
} from '@oleaje/core/project/curve-edits'

const p = (x: number, y: number, bend = 0): Point => ({ x, y, bend })
const at = (points: readonly Point[], x: number): number => new DrawnShape(points).at(x)

describe('curves', () => {
  it('takes shapes into a stretch and leaves the rest alone', () => {
    const base = [p(0, 0.1), p(2, 0.2), p(6, 0.9), p(8, 0.1)]
    for (const shape of insertable) {
      const out = insertShape(base, { from: 3, to: 5 }, shape, 2)
      expect(out[0]).toEqual(base[0])
      expect(out.at(-1)).toEqual(base[3])
      expect(out.every((q, i) => i === 0 || q.x >= out[i - 1]!.x)).toBe(true)
    }
    const sine = insertShape([], { from: 0, to: 1 }, 'sine', 1)
    for (let x = 0; x < 1; x += 0.01)
      expect(Math.abs(at(sine, x) - 0.5 - 0.5 * Math.sin(2 * Math.PI * x))).toBeLessThan(0.03)
    expect(at(insertShape([], { from: 0, to: 4 }, 'steps', 4), 2.5)).toBeCloseTo(2 / 3, 6)
  })
  it('mirrors, scales and repeats', () => {
    const base = [p(0, 0, 0.5), p(1, 1), p(4, 0.5)]
    const whole = { from: 0, to: 4 }
    const back = mirrorTime(base, whole)
    for (const x of [0.3, 0.5, 2, 3.7]) expect(at(back, x)).toBeCloseTo(at(base, 4 - x), 9)
    expect(mirrorTime(back, whole).map((q) => [q.x, q.y])).toEqual(base.map((q) => [q.x, q.y]))
    expect(mirrorHeights(base, whole).map((q) => q.y)).toEqual([1, 0, 0.5])
    expect(scaleHeights(base, whole, 0.5).map((q) => q.y)).toEqual([0.25, 0.75, 0.5])
    const twice = repeatCurve(base, 4)
    for (const x of [0.2, 1.5, 3.9]) expect(at(twice, x + 4)).toBeCloseTo(at(base, x), 9)
  })
  it('thins a ride without leaving its course', () => {
    const ride = Array.from({ length: 400 }, (_, i) =>
      p(i / 50, 0.5 + 0.4 * Math.sin(i / 40) + (0.002 * (((i * 7919) % 13) - 6)) / 6),
    )
    const few = thin(ride, 0.01)
    expect(few.length).toBeLessThan(60)
    for (const q of ride) expect(Math.abs(at(few, q.x) - q.y)).toBeLessThan(0.011)
  })
  it('closes ends by moving the last stretch alone', () => {
    const rise = [p(0, 0.1), p(5.3, 0.4), p(7, 0.83), p(7.9, 0.91), p(8, 0.95)]
    const closed = closeEnds(rise, 8, 0.37)
    expect(closed.at(-1)).toEqual({ x: 8, y: 0.1, bend: 0 })
    for (let x = 0; x <= 7.63; x += 0.07) expect(at(closed, x)).toBeCloseTo(at(rise, x), 9)
    expect(at(closed, 7.815)).toBeCloseTo((at(rise, 7.63) + 0.1) / 2, 9)
    expect(closeEnds(rise, 8, 99)).toEqual([p(0, 0.1), p(8, 0.1)])
  })
  it('keeps a ride to its end, holds what another pass left and jumps where the ride jumped', () => {
    const rise = Array.from({ length: 385 }, (_, i) => [i / 24, i / 384] as const)
    const kept = curveOfRide(rise, 16, 0.5, 0.008)
    for (const x of [0, 1.3, 14.1, 15.9, 16]) expect(at(kept, x)).toBeCloseTo(x / 16, 2)
    const twoPasses = curveOfRide(
      [
        [1, 0.2],
        [1.1, 0.3],
        [3.7, 0.9],
        [3.8, 0.8],
      ],
      5,
      0.5,
      0.001,
    )
    expect([0, 1.1, 2.3, 3.4, 3.7, 4.9].map((x) => at(twoPasses, x))).toEqual([0.2, 0.3, 0.3, 0.3, 0.9, 0.8])
  })
  it('draws straight over what was there', () => {
    const out = drawLine([p(0, 0), p(1, 1), p(2, 0), p(3, 1)], { x: 2.5, y: 0.2 }, { x: 0.5, y: 0.8 })
    expect(out.map((q) => q.x)).toEqual([0, 0.5, 2.5, 3])
    expect(at(out, 1.5)).toBeCloseTo(0.5, 9)
  })
})
