import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { newEffect } from '@oleaje/core/project/new'
import type { ChainNode } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, play, projectOf } from '../project-rig'
import { RATE, noise, peak, sine, spectrumDb } from '../rig'
import { line, through } from './time-rig'

describe('Reverb', () => {
  it('frozen, holds its octaves within half a decibel', () => {
    const x = new Float32Array(25 * RATE)
    x.set(noise(1, 4, 0.5))
    const made = projectOf(x, [newEffect('reverb', { decay: 3, motion: 0.5 }, 'r')])
    const { left } = play(made, 24, {
      [Math.round((1.1 * RATE) / BLOCK)]: (e) => e.update(edited(made.project, setParam('r', 'freeze', 1))),
    })
    const octaves = (at: number): number[] => {
      const n = 262_144
      const s = spectrumDb(left.subarray(at * RATE, at * RATE + n))
      return [125, 250, 500, 1000, 2000, 4000, 8000].map((hz) => {
        let sum = 0
        for (let k = Math.round(((hz / 1.41) * n) / RATE); k < (hz * 1.41 * n) / RATE; k++)
          sum += 10 ** (s[k]! / 10)
        return 10 * Math.log10(sum)
      })
    }
    const early = octaves(2),
      late = octaves(18)
    early.forEach((v, i) => {
      expect(Math.abs(v - late[i]!), `octave ${i}`).toBeLessThan(0.5)
    })
  })
  it('is mono at a width of 0 %, and its sides are strangers at 100 %', () => {
    const likeness = (width: number, side: number): number => {
      const made = through(
        noise(1.5, 5, 0.3),
        [newEffect('reverb', { width, character: side, decay: 1.3 }, 'r')],
        2,
      )
      const [l, r] = [made.left, made.right].map((x) => x.subarray(0.4 * RATE, 1.9 * RATE))
      const sum = (a: Float32Array, b: Float32Array): number => a.reduce((s, v, i) => s + v * b[i]!, 0)
      return sum(l!, r!) / Math.sqrt(sum(l!, l!) * sum(r!, r!))
    }
    for (const character of [0, 1, 2, 3]) {
      expect(likeness(0, character)).toBeGreaterThan(0.999999)
      expect(Math.abs(likeness(1, character)), `character ${character}`).toBeLessThan(0.6)
    }
  })
  it('has characters that differ in early pattern and colour', () => {
    const x = new Float32Array(3 * RATE)
    x[100] = 1
    const makes = [0, 1, 2, 3].map(
      (character) =>
        through(x, [newEffect('reverb', { character, early: 0.5, predelay: 0, decay: 2 }, 'r')], 2).left,
    )
    const first = makes.map((y) => {
      const least = 0.02 * peak(y)
      return y.findIndex((v, i) => i > 100 && Math.abs(v) > least) - 100
    })
    expect(new Set(first.map((f) => Math.round(f / 24))).size).toBeGreaterThanOrEqual(3)
    const centre = makes.map((y) => {
      const s = spectrumDb(y.subarray(4800, 4800 + 32_768))
      let sum = 0
      let weight = 0
      s.forEach((v, k) => {
        const e = 10 ** (v / 10)
        sum += e * k
        weight += e
      })
      return sum / weight
    })
    expect(Math.max(...centre) / Math.min(...centre)).toBeGreaterThan(1.5)
  })
})

describe('Grains', () => {
  it('play the same again, are bounded, and keep to their scale', () => {
    const nodes = (): ChainNode[] => [
      newEffect('grains', { pitchScatter: 12, scale: 2, overlap: 8, size: 0.2 }, 'g'),
    ]
    const x = sine(220, 3, 0.3)
    const a = through(x, nodes(), 3).left,
      b = through(x, nodes(), 3).left
    expect(a).toEqual(b)
    const s = spectrumDb(a.subarray(RATE, RATE + 65_536))
    const at = (hz: number): number => line(s, hz, 65_536, 20)
    // an octave down, as it is, an octave up, and nothing between
    for (const hz of [110, 220, 440]) expect(at(hz)).toBeGreaterThan(at(165) + 12)
  })
})
