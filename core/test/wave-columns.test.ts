import { describe, expect, it } from 'vitest'
import { waveColumns } from '../src/analysis/wave-columns'

const columns = (channels: number[][], first: number, from: number, to: number, count: number): number[] => {
  const out = new Float32Array(2 * count)
  waveColumns(
    channels.map((c) => Float32Array.from(c)),
    first,
    from,
    to,
    out,
  )
  return [...out]
}

describe('columns of a wave', () => {
  it('hold the lowest and the highest of all channels, and meet', () => {
    expect(columns([[0, 0.5, -0.25, 0.75, 0, -1]], 0, 0, 6, 3)).toEqual([-0.25, 0.5, -0.25, 0.75, -1, 0])
    expect(
      columns(
        [
          [0, 0, 0, 0],
          [0.5, 0, -0.5, 0],
        ],
        0,
        0,
        4,
        2,
      ),
    ).toEqual([-0.5, 0.5, -0.5, 0])
  })

  it('are true where less than a frame lies in each, and where the part begins far in the sound', () => {
    expect(columns([[0.25, -0.5]], 1000, 1000, 1002, 4)).toEqual([
      0.25, 0.25, -0.5, 0.25, -0.5, -0.5, -0.5, -0.5,
    ])
    expect(columns([[0.25, -0.5]], 1000, 1000.5, 1001.5, 1)).toEqual([-0.5, 0.25])
  })

  it('are nothing where nothing is at hand', () => {
    expect(columns([[1, 1]], 10, 0, 10, 2)).toEqual([0, 0, 1, 1])
    expect(columns([], 0, 0, 10, 1)).toEqual([0, 0])
  })
})
