import { describe, expect, it } from 'vitest'
import { WheelSteps } from '../composables/wheel-steps'

const turn = (wheel: WheelSteps, deltas: readonly number[], deltaMode = 0): number[] =>
  deltas.map((deltaY) => wheel.take({ deltaX: 0, deltaY, deltaMode }))

describe('a wheel', () => {
  it('steps once a notch, up for more', () => {
    expect(turn(new WheelSteps(), [-100, -120, 100])).toEqual([1, 1, -1])
    expect(turn(new WheelSteps(), [-3, 3, 6], 1)).toEqual([1, -1, -2])
  })
  it('adds up the small movements of a trackpad', () => {
    const steps = turn(
      new WheelSteps(),
      Array.from({ length: 37 }, () => -7),
    )
    expect(steps.reduce((sum, n) => sum + n, 0)).toBe(2)
    expect(Math.max(...steps)).toBe(1)
  })
  it('begins anew the other way', () => {
    expect(turn(new WheelSteps(), [-90, 20, 70, 20])).toEqual([0, 0, 0, -1])
  })
  it('does nothing aside', () => {
    const wheel = new WheelSteps()
    expect([
      wheel.take({ deltaX: 300, deltaY: 20, deltaMode: 0 }),
      wheel.take({ deltaX: -300, deltaY: 220, deltaMode: 0 }),
    ]).toEqual([0, 0])
  })
})
