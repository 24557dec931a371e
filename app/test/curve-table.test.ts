import { describe, expect, it } from 'vitest'
import { csvOf, curvesFrom } from '../services/curve-table'

const frequency = { name: 'Frequency', unit: 'Hz', scale: 'log' } as const
const gain = { name: 'Gain', unit: 'dB', scale: 'linear' } as const
const curve = (name: string, x: number[], y: number[]) => ({
  name,
  x: Float64Array.from(x),
  y: Float64Array.from(y),
})

describe('curve table', () => {
  it('reads back what was written, gaps and awkward names included', () => {
    const curves = [
      curve('A, “as heard”', [20.37, 311, 19_999.5], [-3.25, 0, 1e-7]),
      curve('2nd; "b"', [1, 2], [NaN, 5]),
    ]
    const text = csvOf(frequency, gain, curves)
    expect(text.split('\r\n')[0]).toBe('Curve,Frequency (Hz),Gain (dB)')
    expect(curvesFrom(text, 'file')).toEqual(curves)
  })

  it('reads tables of other makers: semicolons and decimal commas, tabs, two columns, unsorted', () => {
    expect(curvesFrom('f;dB\n100,5;−3,5\n20;1\n', 'mine')).toEqual([curve('mine', [20, 100.5], [1, -3.5])])
    expect(curvesFrom('1\t2\n3\t4', 'tabs')).toEqual([curve('tabs', [1, 3], [2, 4])])
  })

  it('refuses what has no points in a sentence, and loses no row unsaid', () => {
    expect(() => curvesFrom('hello', 'note')).toThrow('“note” has no points.')
    expect(() => curvesFrom('x,y\n1,2\noops,3\n4,5', 'torn')).toThrow('“torn” has 1 row without a number')
  })
})
