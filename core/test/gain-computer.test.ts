import { describe, expect, it } from 'vitest'
import { DB_PER_LOG2, GainComputer } from '@oleaje/core/dsp/gain-computer'
import { compressorCurve } from '@oleaje/core/effects/compressor'
import { noise } from './rig'

const FRAMES = 128
const made = (threshold: number, ratio: number, knee: number): GainComputer => {
  const c = new GainComputer(FRAMES)
  c.threshold.fill(threshold)
  c.slope.fill(1 / ratio - 1)
  c.knee.fill(knee)
  return c
}

describe('GainComputer', () => {
  it('takes the larger of both sides as the level', () => {
    const c = made(0, 1, 0)
    c.left.set(noise(1, 1).subarray(0, FRAMES))
    c.right.set(noise(1, 2).subarray(0, FRAMES))
    c.peaks()
    for (let i = 0; i < FRAMES; i++)
      expect(c.level[i]).toBeCloseTo(Math.max(Math.abs(c.left[i] ?? 0), Math.abs(c.right[i] ?? 0)), 5)
  })

  it.each([
    [-20, 4, 6],
    [-30, 20, 0],
    [-12, 1, 12],
    [-40, 2, 24],
  ])('follows the static curve: threshold %d dB, ratio %d, knee %d dB', (threshold, ratio, knee) => {
    const c = made(threshold, ratio, knee)
    const levels = Array.from({ length: FRAMES }, (_, i) => -80 + i * 0.7)
    levels.forEach((db, i) => {
      c.level[i] = 10 ** (db / 20)
    })
    const most = c.wanted(DB_PER_LOG2)
    expect(most).toBeCloseTo(levels[FRAMES - 1] ?? 0, 6)
    levels.forEach((db, i) => {
      expect(c.level[i]).toBeCloseTo(db, 6)
      expect(c.change[i]).toBeCloseTo(compressorCurve(db, threshold, ratio, knee), 6)
    })
  })

  it('reads power as half as many dB', () => {
    const c = made(0, 1, 0)
    c.level.fill(0.01)
    expect(c.wanted(0.5 * DB_PER_LOG2)).toBeCloseTo(-20, 6)
  })

  it('smooths downwards by one pole and upwards by the other, and goes on from where it was', () => {
    const c = made(0, 1, 0)
    const wanted = Array.from({ length: FRAMES }, (_, i) => (i % 40 < 20 ? -12 : -1))
    c.change.set(wanted)
    let s = -3
    const last = c.smooth(0.9, 0.99, s)
    wanted.forEach((w, i) => {
      s = w + (w < s ? 0.9 : 0.99) * (s - w)
      expect(c.change[i]).toBe(s)
    })
    expect(last).toBe(s)
  })

  it('makes linear gains of changes in dB', () => {
    const c = made(0, 1, 0)
    for (let i = 0; i < FRAMES; i++) c.change[i] = 24 - i
    c.gains()
    for (let i = 0; i < FRAMES; i++) expect((c.gain[i] ?? 0) / 10 ** ((24 - i) / 20)).toBeCloseTo(1, 10)
  })
})
