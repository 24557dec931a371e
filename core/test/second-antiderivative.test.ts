import { describe, expect, it } from 'vitest'
import { ClipCurve, type LevelledCurve, SecondAntiderivative } from '@oleaje/core/dsp/second-antiderivative'
import { Random } from '@oleaje/core/dsp/random'

const curve = new ClipCurve()
curve.low = 0.6
const clip = (x: number): number => Math.max(-0.6, Math.min(1, x))

/** Mean of the clip under a triangle over the straight ways from a to b to c, by the midpoint rule. */
function underTriangle(a: number, b: number, c: number): number {
  const n = 20_000
  let sum = 0
  for (let i = 0; i < n; i++) {
    const t = (i + 0.5) / n
    sum += t * clip(a + (b - a) * t) + (1 - t) * clip(b + (c - b) * t)
  }
  return sum / n
}

describe('second-order antiderivatives', () => {
  it.each([
    ['large steps', 3],
    ['small steps', 0.01],
    ['steps near the threshold of the quotient', 2e-4],
    ['far outside', 300],
  ])('give the mean of the curve under a triangle: %s', (_, size) => {
    const random = new Random(5)
    const x = Float64Array.from({ length: 64 }, () => 1 + size * (2 * random.next() - 1))
    const y = x.slice()
    const shaper = new SecondAntiderivative()
    shaper.process(y.subarray(0, 20), curve)
    shaper.process(y.subarray(20), curve)
    for (let i = 4; i < 62; i++) expect(y[i + 1]).toBeCloseTo(underTriangle(x[i - 2]!, x[i - 1]!, x[i]!), 4)
  })
  it('start as if silence had come before, whatever the curve makes of it', () => {
    const shifted: LevelledCurve = {
      bottom: -1,
      top: 1,
      read: (_x, into) => into.set([0.25, 0.25 * _x, 0.125 * _x * _x]),
    }
    const x = new Float64Array(8)
    new SecondAntiderivative().process(x, shifted)
    for (const v of x) expect(v).toBeCloseTo(0.25, 12)
  })
  it('have the derivative that they say, on either side of each corner', () => {
    const at = new Float64Array(3),
      before = new Float64Array(3),
      after = new Float64Array(3)
    for (const x of [-2, -0.7, -0.6, -0.3, 0, 0.4, 1, 1.7]) {
      curve.read(x, at)
      curve.read(x - 1e-6, before)
      curve.read(x + 1e-6, after)
      expect((after[1]! - before[1]!) / 2e-6).toBeCloseTo(at[0]!, 5)
      expect((after[2]! - before[2]!) / 2e-6).toBeCloseTo(at[1]!, 5)
    }
  })
})
