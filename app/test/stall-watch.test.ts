import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { StallWatch } from '../services/stall-watch'

describe('what may stall', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  it('is ended when it has not moved for so long, and left alone while it moves or when it has ended', () => {
    const stop = vi.fn()
    const watch = new StallWatch(370, stop)
    for (let i = 0; i < 5; i++) {
      vi.advanceTimersByTime(311)
      watch.moved()
    }
    expect([stop.mock.calls.length, watch.isStalled]).toEqual([0, false])
    vi.advanceTimersByTime(371)
    expect([stop.mock.calls.length, watch.isStalled]).toEqual([1, true])
    const other = new StallWatch(370, stop)
    other.end()
    vi.advanceTimersByTime(4000)
    expect(stop).toHaveBeenCalledTimes(1)
  })
})
