import { describe, expect, it } from 'vitest'
import { useZoom } from '../composables/useZoom'

describe('looking at a part', () => {
  it('keeps the place that is zoomed about where it is on the screen', () => {
    const zoom = useZoom(() => 1e-6)
    for (const octaves of [1, 3.5, -0.5, 2]) {
      const share = (0.37 - zoom.view.value.from) / (zoom.view.value.to - zoom.view.value.from)
      zoom.by(octaves, 0.37)
      const { from, to } = zoom.view.value
      expect((0.37 - from) / (to - from)).toBeCloseTo(share, 9)
    }
    expect(zoom.view.value.to - zoom.view.value.from).toBeCloseTo(2 ** -6, 12)
  })

  it('never leaves the whole, nor goes below the least', () => {
    const zoom = useZoom(() => 0.01)
    zoom.by(20, 0.003)
    expect(zoom.view.value.to - zoom.view.value.from).toBeCloseTo(0.01, 12)
    expect(zoom.isClosest.value).toBe(true)
    zoom.scroll(-5)
    expect(zoom.view.value.from).toBe(0)
    zoom.scroll(1000)
    expect(zoom.view.value.to).toBeCloseTo(1, 12)
    zoom.by(-50, 0.99)
    expect(zoom.view.value).toEqual({ from: 0, to: 1 })
  })

  it('brings into sight only what is out of it, and fits a stretch with a little on both sides', () => {
    const zoom = useZoom(() => 0.001)
    zoom.fit(0.4, 0.5)
    expect(zoom.view.value.from).toBeCloseTo(0.397)
    expect(zoom.view.value.to).toBeCloseTo(0.503)
    const before = zoom.view.value
    zoom.show(0.41)
    expect(zoom.view.value).toBe(before)
    zoom.show(0.9)
    expect((zoom.view.value.from + zoom.view.value.to) / 2).toBeCloseTo(0.9)
    zoom.fit(0, 1)
    expect(zoom.view.value).toEqual({ from: 0, to: 1 })
  })

  it('goes by the keys + and − about a mark and 0 for all; other keys are not its own', () => {
    const zoom = useZoom(() => 0.001)
    expect(zoom.key('=', 0.25)).toBe(true)
    expect(zoom.view.value).toEqual({ from: 0.125, to: 0.625 })
    expect(zoom.key('-', 0.25)).toBe(true)
    expect(zoom.view.value).toEqual({ from: 0, to: 1 })
    zoom.key('+', 0.25)
    expect(zoom.key('0', 0.25)).toBe(true)
    expect(zoom.view.value).toEqual({ from: 0, to: 1 })
    expect(zoom.key('ArrowLeft', 0.25)).toBe(false)
  })
})
