import { describe, expect, it } from 'vitest'
import { Overload } from '../services/overload'

/** Takes loads a quarter of a second apart; the times at which it turned on or off. */
function turns(overload: Overload, loads: readonly number[]): [number, boolean][] {
  const out: [number, boolean][] = []
  loads.forEach((load, i) => {
    const before = overload.isOn
    overload.take(i * 250, load)
    if (overload.isOn !== before) out.push([i * 250, overload.isOn])
  })
  return out
}
const times = (n: number, load: number): number[] => Array.from({ length: n }, () => load)

describe('an overload', () => {
  it('is told of after two seconds above ninety per cent, and ends after two below eighty', () => {
    expect(turns(new Overload(), [...times(5, 0.3), ...times(13, 0.93), ...times(13, 0.71)])).toEqual([
      [5 * 250 + 2000, true],
      [18 * 250 + 2000, false],
    ])
  })
  it('is none where the load falls below the limit in between, or only comes near it', () => {
    expect(
      turns(new Overload(), [...times(7, 0.95), 0.85, ...times(7, 0.95), 0.2, ...times(40, 0.89)]),
    ).toEqual([])
  })
  it('goes on between the two limits, so that it does not come and go', () => {
    const overload = new Overload()
    turns(overload, times(10, 1.2))
    expect(overload.isOn).toBe(true)
    for (let i = 0; i < 40; i++) overload.take(3000 + i * 250, 0.85)
    expect(overload.isOn).toBe(true)
  })
  it('is near as soon as the work is too much, and forgotten with what played', () => {
    const overload = new Overload()
    overload.take(0, 0.97)
    expect([overload.isNear, overload.isOn]).toEqual([true, false])
    overload.forget()
    overload.take(5000, 0.97)
    expect(overload.isOn).toBe(false)
  })
})
