import { describe, expect, it } from 'vitest'
import { BandStages, STRIDE } from '@oleaje/core/dsp/band-stages'
import { BAND_NUMBERS, designBand } from '@oleaje/core/dsp/matched-band'
import { noise } from './rig'

const BLOCK = 128
const x = noise(1, 3),
  y = noise(1, 4)

/** A row with its stages where a design has them: kind, frequency as a share, Q, gain in dB. */
function row(...designs: [number, number, number, number][]): BandStages {
  const r = new BandStages(8, BLOCK)
  designs.forEach(([kind, f, q, gain], stage) => {
    designBand(kind, f, q, gain, r.next, stage * BAND_NUMBERS)
    r.jump(stage)
  })
  return r
}

/** Several blocks; `each` runs one that has been written to the row. */
function run(
  r: BandStages,
  blocks: number,
  each: (block: number) => void,
): { left: number[]; right: number[] } {
  const out = { left: [] as number[], right: [] as number[] }
  for (let b = 0; b < blocks; b++) {
    r.left.set(x.subarray(b * BLOCK, (b + 1) * BLOCK))
    r.right.set(y.subarray(b * BLOCK, (b + 1) * BLOCK))
    each(b)
    out.left.push(...r.left)
    out.right.push(...r.right)
  }
  return out
}

const strides = (r: BandStages, stages: number[]): void => {
  for (let start = 0; start < BLOCK; start += STRIDE) {
    for (const s of stages) r.enqueue(s)
    r.stride(start)
  }
}
const bell: [number, number, number, number] = [0, 0.05, 1.3, 9]
const cut: [number, number, number, number] = [4, 0.2, 0.8, 0]
const notch: [number, number, number, number] = [5, 0.1, 2, 0]

describe('BandStages', () => {
  it('is the biquad that its numbers stand for', () => {
    const r = row(bell)
    const [g = 0, k = 0, a = 0, b = 0, c = 0] = r.next
    const { left } = run(r, 4, () => {
      strides(r, [0])
    })
    let s1 = 0,
      s2 = 0
    left.forEach((out, i) => {
      // the trapezoidal state-variable filter, as the book has it
      const v = (s1 + g * ((x[i] ?? 0) - s2)) / (1 + g * (g + k))
      const low = s2 + g * v
      s1 = 2 * v - s1
      s2 = 2 * low - s2
      expect(out).toBeCloseTo(a * (x[i] ?? 0) + b * v + c * low, 12)
    })
  })

  it('runs three in a row as one after the other', () => {
    const r = row(bell, cut, notch)
    const all = run(r, 3, () => {
      strides(r, [0, 1, 2])
    })
    const s = row(bell, cut, notch)
    const apart = run(s, 3, () => {
      for (const stage of [0, 1, 2]) strides(s, [stage])
    })
    expect(all).toEqual(apart)
  })

  it('gives the same for a block at once as for its strides', () => {
    const r = row(bell, cut)
    const s = row(bell, cut)
    designBand(0, 0.08, 1, -6, r.next, 0)
    s.next.set(r.next)
    const whole = run(r, 3, () => {
      r.enqueue(0)
      r.enqueue(1)
      r.block()
    })
    const parts = run(s, 3, () => {
      for (let start = 0; start < BLOCK; start += STRIDE) {
        s.enqueue(0, STRIDE / (BLOCK - start))
        s.enqueue(1)
        s.stride(start)
      }
    })
    expect(whole).toEqual(parts)
  })

  it('goes to new numbers without a step, and stands there', () => {
    const r = row(bell)
    const before = run(r, 1, () => {
      strides(r, [0])
    }).left
    designBand(0, 0.05, 1.3, -9, r.next, 0)
    const x2 = run(r, 6, () => {
      r.enqueue(0)
      r.block()
    }).left
    expect(Number.isFinite(before[0])).toBe(true)
    const s = row([0, 0.05, 1.3, -9])
    const settled = run(s, 6, () => {
      strides(s, [0])
    }).left
    // what was kept of the old ones has died away after some blocks
    for (let i = 5 * BLOCK; i < 6 * BLOCK; i++) expect(x2[i]).toBeCloseTo(settled[i] ?? NaN, 3)
  })

  it('takes new numbers at once where it is told to jump', () => {
    const r = row(bell)
    run(r, 2, () => {
      strides(r, [0])
    })
    designBand(4, 0.01, 0.7, 0, r.next, 0)
    r.jump(0)
    r.reset()
    const s = row([4, 0.01, 0.7, 0])
    expect(
      run(r, 2, () => {
        strides(r, [0])
      }),
    ).toEqual(
      run(s, 2, () => {
        strides(s, [0])
      }),
    )
  })

  it('may work on one side, on the middle, or beside the sound', () => {
    const r = row(bell)
    const sumL = new Float64Array(BLOCK),
      sumR = new Float64Array(BLOCK)
    const apart = (place: number, how: number): { left: number[]; right: number[] } => {
      const q = row(bell)
      return run(q, 2, () => {
        for (let start = 0; start < BLOCK; start += STRIDE) q.runApart(0, 0, 1, place, how, start, sumL, sumR)
      })
    }
    const both = run(r, 2, () => {
      strides(r, [0])
    })
    const plain = apart(0, 0)
    both.left.forEach((v, i) => {
      expect(plain.left[i]).toBeCloseTo(v, 10)
    })
    const onLeft = apart(3, 0)
    expect(onLeft.right).toEqual([...y.subarray(0, 2 * BLOCK)])
    onLeft.left.forEach((v, i) => {
      expect(v).toBeCloseTo(both.left[i] ?? NaN, 10)
    })
    const sides = apart(2, 0)
    sides.left.forEach((v, i) => {
      expect(v + (sides.right[i] ?? 0)).toBeCloseTo((x[i] ?? 0) + (y[i] ?? 0), 10)
    })
    const beside = apart(0, 1)
    expect(beside.left).toEqual([...x.subarray(0, 2 * BLOCK)])
    expect(sumL.some((v) => v !== 0)).toBe(true)
  })
})
