import { describe, expect, it } from 'vitest'
import { LEAST_DELAY, StereoDelayLine } from '@oleaje/core/dsp/delay-line'
import { noise } from './rig'

const BLOCK = 128

/** A line that is written and read block by block: what comes out of it. */
function through(
  line: StereoDelayLine,
  left: Float32Array,
  right: Float32Array,
  delay: (i: number) => number,
): { left: Float64Array; right: Float64Array } {
  const times = line.block(),
    a = line.block(),
    b = line.block()
  const out = { left: new Float64Array(left.length), right: new Float64Array(left.length) }
  for (let at = 0; at + BLOCK <= left.length; at += BLOCK) {
    // written first, so everything lies a block further back
    line.write(
      Float64Array.from(left.subarray(at, at + BLOCK)),
      Float64Array.from(right.subarray(at, at + BLOCK)),
      0,
      BLOCK,
    )
    for (let i = 0; i < BLOCK; i++) times[i] = delay(at + i) + BLOCK
    line.read(times, a, b, 0, BLOCK)
    out.left.set(a, at)
    out.right.set(b, at)
  }
  return out
}

describe('StereoDelayLine', () => {
  it.each([LEAST_DELAY, 100, 3000])(
    'gives back exactly what was written %i samples ago, round its end',
    (delay) => {
      const x = noise(0.4, 2),
        y = noise(0.4, 3)
      const { left, right } = through(new StereoDelayLine(3200, 3, BLOCK), x, y, () => delay)
      const n = Math.floor(x.length / BLOCK) * BLOCK
      expect([...left.subarray(delay, n)]).toEqual([...x.subarray(0, n - delay)])
      expect([...right.subarray(delay, n)]).toEqual([...y.subarray(0, n - delay)])
      expect(left.subarray(0, delay).every((v) => v === 0)).toBe(true)
    },
  )

  it('reads between samples as a sine would have been there', () => {
    const x = Float32Array.from({ length: 9600 }, (_, i) => Math.sin(i * 0.2))
    for (const delay of [200.5, 333.123, 57.9]) {
      const { left } = through(new StereoDelayLine(3200, 3, BLOCK), x, x, () => delay)
      for (let i = 2000; i < 3000; i++) expect(left[i]).toBeCloseTo(Math.sin((i - delay) * 0.2), 3)
    }
  })

  it('forgets all at a reset, and gives every sample after it', () => {
    const line = new StereoDelayLine(1000, 6, BLOCK)
    through(line, noise(0.2, 5), noise(0.2, 6), () => 500)
    line.reset()
    const x = noise(0.2, 7),
      y = noise(0.2, 8)
    const again = through(line, x, y, (i) => 300 + (i % 997) / 3)
    const fresh = through(new StereoDelayLine(1000, 6, BLOCK), x, y, (i) => 300 + (i % 997) / 3)
    expect([...again.left]).toEqual([...fresh.left])
    expect([...again.right]).toEqual([...fresh.right])
  })

  it('is silent for a time that is no number', () => {
    const line = new StereoDelayLine(1000, 3, BLOCK)
    const { left } = through(line, noise(0.05, 5), noise(0.05, 6), (i) => (i % 2 ? NaN : 20))
    expect(left.every((v, i) => (i % 2 ? v === 0 || Number.isNaN(v) : Number.isFinite(v)))).toBe(true)
  })
})
