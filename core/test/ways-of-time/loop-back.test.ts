import { describe, expect, it } from 'vitest'
import { putAround } from '@oleaje/core/project/chain-edits'
import { newEffect, newLoopBack } from '@oleaje/core/project/new'
import type { ChainNode } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, play, projectOf } from '../project-rig'
import { RATE, db, noise, peak, rms, sine } from '../rig'
import { centsOff, through } from './time-rig'

describe('Loop-back', () => {
  it('comes round after its whole time, what is inside included, by its feedback', () => {
    const x = new Float32Array(3 * RATE)
    x[1000] = 0.5
    const loop = newLoopBack([newEffect('limiter', {}, 'lim')], 'l')
    loop.params = { ...loop.params, sync: 0, time: 0.31375, feedback: 0.5 }
    const { left, engine } = through(x, [loop], 2)
    const inside = engine.latency
    for (const k of [0, 1, 2, 3]) {
      const at = 1000 + inside + Math.round(k * 0.31375 * RATE)
      const near = peak(left.subarray(at - 6, at + 7))
      expect(db(near / (0.5 * 0.5 ** k))).toBeGreaterThan(-1.2)
    }
  })
  it('shimmer: each pass is an octave up within 2 cents, its level by the feedback within 0.2 dB', () => {
    const x = new Float32Array(5 * RATE)
    x.set(
      sine(131, 0.8, 0.4).map(
        (v, i, all) => v * Math.min(1, i / 2400) * Math.min(1, (all.length - i) / 2400),
      ),
    )
    const loop = newLoopBack([newEffect('pitch', { quality: 1, pitch: 12 }, 'p')], 'l')
    loop.params = { ...loop.params, sync: 0, time: 1, feedback: 0.7 }
    const { left } = through(x, [loop], 4.2)
    const level = (k: number): number =>
      rms(left.subarray(Math.round((k - 1 + 0.35) * RATE), Math.round((k - 1 + 0.65) * RATE)))
    for (const k of [1, 2, 3, 4])
      expect(Math.abs(centsOff(left, 131 * 2 ** k, Math.round((k - 1 + 0.3) * RATE), 0.2))).toBeLessThan(2)
    for (const k of [2, 3, 4]) expect(Math.abs(db(level(k) / level(k - 1)) - db(0.7))).toBeLessThan(0.2)
  })
  it('shimmer with a reverb: the energy of each octave falls by the gain of what is inside and the feedback, within 1.5 dB', () => {
    const x = new Float32Array(9 * RATE)
    x.set(
      noise(0.8, 6, 0.3).map((v, i, all) => v * Math.min(1, i / 2400) * Math.min(1, (all.length - i) / 2400)),
    )
    const made = (feedback: number): Float32Array => {
      const loop = newLoopBack(
        [
          newEffect('pitch', { quality: 1, pitch: 12 }, 'p'),
          newEffect('reverb', { decay: 0.7, motion: 0, lowCut: 20 }, 'r'),
        ],
        'l',
      )
      loop.params = { ...loop.params, sync: 0, time: 2.5, feedback }
      return through(x, [loop], 8).left
    }
    const energy = (y: Float32Array, pass: number): number => {
      let sum = 0
      for (let i = Math.round(2.5 * pass * RATE); i < 2.45 * (pass + 1) * RATE; i++) sum += y[i]! ** 2
      return 10 * Math.log10(sum)
    }
    const y = made(0.6),
      louder = made(0.8)
    // what is inside takes the same from a pass whatever the feedback: the difference between the two is the
    // feedback alone
    for (const k of [1, 2])
      expect(Math.abs(energy(louder, k) - energy(y, k) - k * (db(0.8) - db(0.6)))).toBeLessThan(1.5)
  })
  it('gives as many repeats as it is asked for, and no more', () => {
    const x = new Float32Array(5 * RATE)
    x.set(sine(311, 0.1, 0.4), 1000)
    const loop = newLoopBack([newEffect('limiter', {}, 'lim')], 'l')
    loop.params = { ...loop.params, sync: 0, time: 0.37, feedback: 0.9, repeats: 3 }
    const { left, engine } = through(x, [loop], 3)
    const at = (k: number): number => 1000 + engine.latency + Math.round((k * 0.37 + 0.03) * RATE)
    const level = (k: number): number => db(rms(left.subarray(at(k), at(k) + Math.round(0.04 * RATE))))
    for (const k of [1, 2, 3]) expect(level(k) - level(k - 1)).toBeCloseTo(db(0.9), 0)
    for (const k of [4, 5, 6]) expect(level(k)).toBeLessThan(-90)
  })
  it('with its effects on the return, leaves what comes in as it is and processes each repeat once more', () => {
    const x = new Float32Array(5 * RATE)
    x.set(sine(311, 0.1, 0.4), 1000)
    const loop = newLoopBack([newEffect('gain', { level: -6 }, 'g')], 'l')
    loop.params = { ...loop.params, sync: 0, time: 0.37, feedback: 1, place: 1 }
    const { left, engine } = through(x, [loop], 2)
    const at = (k: number): number => 1000 + engine.latency + Math.round((k * 0.37 + 0.03) * RATE)
    const level = (k: number): number => db(rms(left.subarray(at(k), at(k) + Math.round(0.04 * RATE))))
    expect(level(0)).toBeCloseTo(db(rms(x.subarray(1000 + 0.03 * RATE, 1000 + 0.07 * RATE))), 1)
    expect(level(1) - level(0)).toBeCloseTo(-6, 0)
    expect(level(2) - level(1)).toBeCloseTo(-6, 0)
  })
  it('stays bounded at 120 % with a gain inside it', () => {
    const loop = newLoopBack([newEffect('gain', { level: 6 }, 'g')], 'l')
    loop.params = { ...loop.params, sync: 0, time: 0.11, feedback: 1.2 }
    const { left } = through(noise(4, 5, 0.5), [loop], 8)
    expect(peak(left)).toBeLessThan(12)
  })
  it('is made around effects, and is the same sound as before with no feedback', () => {
    const x = noise(1, 7, 0.4)
    const nodes = (): ChainNode[] => [newEffect('filter', { cutoff: 900 }, 'f'), newEffect('drive', {}, 'd')]
    const plain = projectOf(x, nodes())
    const looped = edited(
      plain.project,
      putAround('loop-back', ['f', 'd'], 'l'),
      setParam('l', 'feedback', 0),
    )
    const a = play(plain, 1).left,
      b = play({ ...plain, project: looped }, 1).left
    expect(db(rms(a.map((v, i) => v - b[i]!)) / rms(a))).toBeLessThan(-120)
  })
})
