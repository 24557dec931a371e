import { describe, expect, it } from 'vitest'
import { HIGHEST, HeldLevels, LOWEST, bandFrequency, bandLevels } from '@oleaje/core/analysis/band-levels'
import { loudnessRange } from '@oleaje/core/analysis/loudness-range'
import { beatBefore, crossingBefore } from '@oleaje/core/analysis/scope-trigger'
import { Spectrum } from '@oleaje/core/analysis/spectrum'
import { RATE, noise, sine } from './rig'

const SIZE = 4096
const levels = (x: Float32Array, reading = { smoothing: 0, tilt: 0 }, bands = 220): Float32Array => {
  const out = new Float32Array(bands)
  bandLevels(new Spectrum(SIZE).ofRing(x, 0), RATE, reading, out)
  return out
}
const bandOf = (hz: number, bands = 220): number =>
  Math.round((Math.log(hz / LOWEST) / Math.log(HIGHEST / LOWEST)) * bands - 0.5)
const most = (x: Float32Array): number => x.indexOf(Math.max(...x))

describe('levels of a spectrum', () => {
  it.each([97, 311, 1003, 9011])('show a tone of %d Hz in its place, at its level', (hz) => {
    const found = levels(sine(hz, SIZE / RATE, 0.25))
    const best = most(found)
    expect(Math.abs(Math.log2(bandFrequency(best, 220) / hz))).toBeLessThan(hz < 200 ? 0.15 : 0.03)
    // between two lines of the transform a Hann window loses up to 1.4 dB
    expect(found[best]).toBeGreaterThan(20 * Math.log10(0.25) - 1.5)
    expect(found[best]).toBeLessThan(20 * Math.log10(0.25) + 0.05)
  })
  it('put a sweep along a straight line over the octaves', () => {
    const places = [100, 200, 400, 800, 1600, 3200, 6400, 12_800].map((hz) =>
      most(levels(sine(hz, SIZE / RATE, 0.5))),
    )
    const steps = places.slice(1).map((p, i) => p - places[i]!)
    for (const step of steps)
      expect(Math.abs(step - 220 / Math.log2(HIGHEST / LOWEST))).toBeLessThanOrEqual(2)
  })
  it('lie level for noise under a tilt of its own slope, smoother the wider they are read', () => {
    const white = noise(0.1, 7, 0.5)
    const spread = (reading: { smoothing: number; tilt: number }): number => {
      const found = levels(white, reading).slice(bandOf(400), bandOf(15_000))
      const mean = found.reduce((a, b) => a + b, 0) / found.length
      return Math.sqrt(found.reduce((a, b) => a + (b - mean) ** 2, 0) / found.length)
    }
    expect(spread({ smoothing: 1 / 3, tilt: 0 })).toBeLessThan(spread({ smoothing: 1 / 12, tilt: 0 }))
    expect(spread({ smoothing: 1 / 3, tilt: 0 })).toBeLessThan(1.5)
    const tilted = levels(white, { smoothing: 1 / 3, tilt: 3 })
    expect(tilted[bandOf(8000)]! - levels(white, { smoothing: 1 / 3, tilt: 0 })[bandOf(8000)]!).toBeCloseTo(
      9,
      0,
    )
  })
  it('rise at once, fall slowly, and keep the highest until it is forgotten', () => {
    const held = new HeldLevels(2)
    held.take(Float32Array.of(-10, -50), 1)
    held.take(Float32Array.of(-30, -20), 1.5)
    expect([...held.now]).toEqual([-11.5, -20])
    expect([...held.highest]).toEqual([-10, -20])
    held.forget()
    held.take(Float32Array.of(-60, -60), 1)
    expect([...held.highest]).toEqual([-60, -60])
  })
})

describe('a scope', () => {
  it('begins at the same phase of 311 Hz, wherever the ring ends, to a hundredth of a frame', () => {
    const n = 16_384
    const x = sine(311, (n / RATE) * 2, 0.4)
    for (const end of [n, n + 37, n + 411, n + 5003]) {
      const ring = new Float32Array(n)
      for (let i = end - n; i < end; i++) ring[i % n] = x[i]!
      const back = crossingBefore(ring, end % n, 960, 0, 0.05)!
      const cycles = ((end - back) * 311) / RATE
      expect(Math.abs(cycles - Math.round(cycles))).toBeLessThan(0.002)
      expect(back).toBeGreaterThanOrEqual(960)
    }
  })
  it('is not started by noise about the level, and says so where nothing crosses', () => {
    const ring = new Float32Array(4096)
    for (let i = 0; i < 4096; i++) ring[i] = 0.01 * Math.sin(i * 1.7) + (i % 1024 < 512 ? 0.5 : -0.5)
    const back = crossingBefore(ring, 0, 100, 0, 0.1)!
    expect((4096 - back) % 1024).toBeGreaterThan(1022)
    expect(crossingBefore(new Float32Array(4096).fill(0.3), 0, 100, 0, 0.1)).toBeNull()
  })
  it('begins at the beat, and waits where that has left the ring', () => {
    const perBeat = (60 / 107) * RATE
    expect(beatBefore(7.1, perBeat, 480, 16_384)).toBeCloseTo(0.1 * perBeat, 6)
    expect(beatBefore(7.01, perBeat, 480, 16_384)).toBeNull()
    expect(beatBefore(7.9, perBeat, 480, 16_384)).toBeNull()
    expect(beatBefore(7.01, perBeat, 200, 16_384)).toBeCloseTo(0.01 * perBeat, 6)
    expect(beatBefore(7.3, perBeat, 480, 16_384, 0.25)).toBeCloseTo(0.05 * perBeat, 6)
  })
})

describe('loudness range', () => {
  it('is what lies between the tenth and the ninety-fifth part, without what is far below', () => {
    // EBU Tech 3342: -20 and -30 LUFS in turn, 10 LU; with -36 among them 16 LU hold
    const steps = (...values: number[]): number[] =>
      values.flatMap((v) => Array.from({ length: 200 }, () => v))
    expect(loudnessRange(steps(-20, -30))).toBeCloseTo(10, 6)
    expect(loudnessRange(steps(-20, -15))).toBeCloseTo(5, 6)
    expect(loudnessRange(steps(-50, -35, -20, -35, -50))).toBeCloseTo(15, 6)
    expect(loudnessRange([])).toBe(0)
  })
})
