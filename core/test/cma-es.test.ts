import { describe, expect, it } from 'vitest'
import { CmaEs, type CmaStart, eigen } from '@oleaje/core/search/cma-es'

/** The best point after so many losses. */
function search(loss: (x: number[]) => number, start: CmaStart, most: number) {
  const cma = new CmaEs(start)
  let best = { x: [] as number[], loss: Infinity }
  let count = 0
  while (count < most && !cma.isSettled) {
    const points = cma.ask()
    const losses = points.map(loss)
    count += points.length
    losses.forEach((l, i) => {
      if (l < best.loss) best = { x: points[i] ?? [], loss: l }
    })
    cma.tell(losses)
  }
  return { ...best, count }
}
const start = (n: number, seed: number): CmaStart => ({ middle: Array(n).fill(0.5), spread: 0.3, seed })

describe('the search by covariance', () => {
  it('finds the least of a bowl that is a thousand times as steep in one direction', () => {
    const at = [0.31, 0.77, 0.11, 0.64, 0.43]
    const bowl = (x: number[]): number => x.reduce((s, v, i) => s + 1000 ** (i / 4) * (v - at[i]!) ** 2, 0)
    for (const seed of [1, 2, 3]) {
      const { x, loss } = search(bowl, start(5, seed), 1500)
      expect(loss).toBeLessThan(1e-5)
      x.forEach((v, i) => expect(v).toBeCloseTo(at[i]!, 2))
    }
  })

  it('follows a bent valley', () => {
    const valley = ([a, b]: number[]): number => {
      const [x, y] = [4 * a! - 2, 4 * b! - 2]
      return (1 - x) ** 2 + 100 * (y - x * x) ** 2
    }
    expect(search(valley, start(2, 7), 3000).loss).toBeLessThan(1e-4)
  })

  it('finds a least that lies at the border, and asks for nothing beyond it', () => {
    const corner = (x: number[]): number => {
      for (const v of x) expect(v >= 0 && v <= 1).toBe(true)
      return x.reduce((s, v) => s + v, 0)
    }
    expect(search(corner, start(4, 3), 1200).loss).toBeLessThan(0.01)
  })

  it('asks the same with the same seed, and other things with another', () => {
    const [a, b, c] = [5, 5, 6].map((seed) => new CmaEs(start(3, seed)).ask())
    expect(a).toEqual(b)
    expect(a).not.toEqual(c)
  })
})

describe('eigenvectors', () => {
  it('make the matrix again', () => {
    const m = [
      [4, 1, 0.37],
      [1, 3, -0.5],
      [0.37, -0.5, 2],
    ].map((r) => Float64Array.from(r))
    const { values, vectors } = eigen(m)
    for (const i of [0, 1, 2])
      for (const j of [0, 1, 2]) {
        const sum = [0, 1, 2].reduce((s, k) => s + vectors[i]![k]! * values[k]! * vectors[j]![k]!, 0)
        expect(sum).toBeCloseTo(m[i]![j]!, 10)
      }
  })
})
