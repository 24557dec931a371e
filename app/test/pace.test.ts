import { describe, expect, it } from 'vitest'
import { Pace } from '../drawing/pace'

describe('the pace of pictures', () => {
  it('is thirty a second while sound is in time', () => {
    const pace = new Pace()
    for (let t = 0; t < 60_000; t += 33) pace.take(t, 4)
    expect(pace.apart).toBe(33)
  })
  it('gives way with each second in which blocks came late, down to its slowest', () => {
    const pace = new Pace()
    const seen = [0, 1, 2, 3, 4, 5].map((s) => {
      pace.take(s * 1000, s)
      return pace.apart
    })
    expect(seen).toEqual([33, 50, 83, 117, 117, 117])
  })
  it('comes back step by step, eight calm seconds for each', () => {
    const pace = new Pace()
    for (let s = 0; s < 3; s++) pace.take(s * 1000, s)
    expect(pace.apart).toBe(83)
    for (let s = 3; s < 10; s++) pace.take(s * 1000, 2)
    expect(pace.apart).toBe(83)
    for (let s = 10; s < 12; s++) pace.take(s * 1000, 2)
    expect(pace.apart).toBe(50)
    for (let s = 12; s < 20; s++) pace.take(s * 1000, 2)
    expect(pace.apart).toBe(33)
  })
  it('looks once a second, and takes a count that was begun anew for none', () => {
    const pace = new Pace()
    pace.take(0, 0)
    for (let t = 100; t < 1000; t += 100) pace.take(t, 9)
    expect(pace.apart).toBe(33)
    pace.take(1000, 9)
    expect(pace.apart).toBe(50)
    pace.take(2000, 0)
    expect(pace.apart).toBe(50)
  })
  it('leaves the page half of its time where drawings take long, but never comes less often than it does for late sound', () => {
    const pace = new Pace()
    for (let i = 0; i < 100; i++) pace.drew(5)
    expect(pace.apart).toBe(33)
    for (let i = 0; i < 100; i++) pace.drew(30)
    expect(pace.apart).toBeCloseTo(60, 0)
    pace.take(0, 0)
    pace.take(1000, 1)
    expect(pace.apart).toBeCloseTo(60, 0)
    pace.take(2000, 2)
    expect(pace.apart).toBe(83)
    for (let i = 0; i < 100; i++) pace.drew(300)
    expect(pace.apart).toBe(117)
    for (let i = 0; i < 100; i++) pace.drew(3)
    expect(pace.apart).toBe(83)
  })
})
