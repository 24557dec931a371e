import { describe, expect, it } from 'vitest'
import { LaneHistory } from '../composables/lane-history'

describe('what a value did along a loop', () => {
  it('is not known where it was not seen', () => {
    const h = new LaneHistory(10)
    h.write(0.35, 0.5)
    expect([...h.values].map((v, i) => (Number.isNaN(v) ? -1 : i)).filter((i) => i >= 0)).toEqual([3])
    h.clear()
    expect(h.values.every(Number.isNaN)).toBe(true)
  })
  it('has no place of the last pass left between two of this one, however far pictures are apart', () => {
    const h = new LaneHistory(100)
    for (let i = 0; i < 100; i++) h.write(i / 100, 1)
    h.write(0, 0)
    for (let i = 7; i < 100; i += 7) h.write(i / 100, 0)
    expect([...h.values.subarray(0, 98)].every((v) => v === 0)).toBe(true)
  })
  it('goes straight from one picture to the next', () => {
    const h = new LaneHistory(100)
    h.write(0.1, 0)
    h.write(0.14, 1)
    expect([...h.values.subarray(10, 15)]).toEqual([0, 0.25, 0.5, 0.75, 1])
  })
  it('fills nothing where the song jumps or begins anew', () => {
    const h = new LaneHistory(100)
    h.write(0.1, 0)
    h.write(0.5, 1)
    h.write(0.2, 1)
    expect(h.values[30]).toBeNaN()
    expect(h.values[11]).toBeNaN()
  })
  it('stays within its places', () => {
    const h = new LaneHistory(10)
    h.write(1.2, 0.5)
    h.write(-0.1, 0.25)
    expect([h.values[9], h.values[0], h.values.length]).toEqual([0.5, 0.25, 10])
  })
})
