import { describe, expect, it } from 'vitest'
import { AmountScaling } from '../composables/amount-scaling'

describe('scaling amounts together', () => {
  const start = new Map([
    ['a', 0.7],
    ['b', 0.31],
  ])
  it('goes back by the inverse, over the end of the range too', () => {
    const scaling = new AmountScaling()
    const twice = scaling.by(2, start)
    expect([...twice.values()]).toEqual([1, 0.62])
    expect([...scaling.by(0.5, twice).values()]).toEqual([0.7, 0.31])
  })
  it('begins anew from what somebody else has set, and for other links', () => {
    const scaling = new AmountScaling()
    scaling.by(2, start)
    expect([
      ...scaling
        .by(
          0.5,
          new Map([
            ['a', 1],
            ['b', 0.5],
          ]),
        )
        .values(),
    ]).toEqual([0.5, 0.25])
    expect([...scaling.by(0.5, new Map([['a', 0.5]])).values()]).toEqual([0.25])
  })
})
