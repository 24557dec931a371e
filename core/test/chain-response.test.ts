import { describe, expect, it } from 'vitest'
import { chainResponse, partOf } from '@oleaje/core/analysis/chain-response'
import { newBranch, newEffect, newGroup, newSplit } from '@oleaje/core/project/new'
import type { ChainNode } from '@oleaje/core/project/schema'
import { RATE, db } from './rig'

/** First-order all-pass in the bilinear form: −1 at Nyquist, +1 at 0 Hz, a quarter turn at its corner. */
function allPass(hz: number, corner: number): { re: number; im: number } {
  const t = Math.tan((Math.PI * hz) / RATE) / Math.tan((Math.PI * corner) / RATE)
  // (1 − jt) / (1 + jt)
  return { re: (1 - t * t) / (1 + t * t), im: (-2 * t) / (1 + t * t) }
}
type Complex = ReturnType<typeof allPass>
const times = (a: Complex, b: Complex): Complex => ({
  re: a.re * b.re - a.im * b.im,
  im: a.re * b.im + a.im * b.re,
})

/** Splits of an all-pass and the dry sound, one after the other. */
function sum(corner: number, level: number, polarity: number, name: string): ChainNode {
  const through = {
    ...newBranch('through', 0, `${name}a`),
    nodes: [
      newEffect('all-pass', { order: 0, frequency: corner, stages: 1 }, `${name}ap`),
      newEffect('gain', { mode: 1, factor: level }, `${name}g`),
    ],
  }
  const dry = newBranch('dry', 0, `${name}b`)
  dry.params.polarity = polarity
  return newSplit([through, dry], `${name}s`)
}

describe('from first principles, as the response view shows it', () => {
  const places = [4, 20, 68, 85, 170, 512, 900, 1500]
  function agrees(nodes: ChainNode[], theory: (hz: number) => Complex): void {
    const r = chainResponse(nodes, RATE)
    for (const k of places) {
      const hz = (k * RATE) / r.frames
      const t = theory(hz)
      const wanted = Math.hypot(t.re, t.im)
      if (wanted < 0.003) continue
      expect(Math.abs(db(r.magnitude[k]!) - db(wanted)), `${hz} Hz`).toBeLessThan(0.05)
      const turn = ((r.phase[k]! - Math.atan2(t.im, t.re)) * 180) / Math.PI
      expect(Math.abs(((turn + 540) % 360) - 180), `${hz} Hz`).toBeLessThan(0.5)
    }
  }
  const one =
    (corner: number, g: number, d: number) =>
    (hz: number): Complex => {
      const a = allPass(hz, corner)
      return { re: g * a.re + d, im: g * a.im }
    }
  it.each([
    ['low-pass', 1, 1],
    ['high-pass', 1, -1],
    ['shelf up', 0.5, 1],
    ['flat', 0, 1],
    ['shelf down', -0.5, 1],
  ] as const)('all-pass and dry: %s', (_, g, d) => {
    agrees([sum(800, g, d, 'x')], one(800, g, d))
  })
  it('two shelves in a row make a bell', () => {
    // up above one corner and down above the other: a bell between them
    agrees([sum(400, -0.4, 1, 'x'), sum(2500, 0.4, 1, 'y')], (hz) =>
      times(one(400, -0.4, 1)(hz), one(2500, 0.4, 1)(hz)),
    )
    const r = chainResponse([sum(400, -0.4, 1, 'x'), sum(2500, 0.4, 1, 'y')], RATE)
    const at = (hz: number): number => db(r.magnitude[Math.round((hz * r.frames) / RATE)]!)
    expect(at(1000)).toBeGreaterThan(at(40) + 3)
    expect(at(1000)).toBeGreaterThan(at(16_000) + 3)
  })
  it('two all-passes in a row beside dry make a notch at their corner', () => {
    const through = {
      ...newBranch('through', 0, 'a'),
      nodes: [newEffect('all-pass', { order: 0, frequency: 1500, stages: 2 }, 'ap')],
    }
    const nodes = [newSplit([through, newBranch('dry', 0, 'b')], 's')]
    agrees(nodes, (hz) => {
      const a = times(allPass(hz, 1500), allPass(hz, 1500))
      return { re: 1 + a.re, im: a.im }
    })
    expect(db(chainResponse(nodes, RATE).magnitude[128]!)).toBeLessThan(-60)
  })
})

describe('parts of a chain', () => {
  const nodes: ChainNode[] = [
    newEffect('gain', { level: -6 }, 'first'),
    newSplit(
      [
        {
          ...newBranch('a', 0, 'ba'),
          nodes: [newEffect('gain', { level: -3 }, 'inner'), newEffect('gain', { level: -20 }, 'rest')],
        },
        { ...newBranch('b', 0, 'bb'), nodes: [newEffect('gain', {}, 'other')] },
      ],
      's',
    ),
    newGroup('g', [newEffect('gain', { level: -1 }, 'grouped')], 'g'),
    newEffect('gain', { level: -40 }, 'last'),
  ]
  const level = (id: string, scope: 'up to here' | 'branch'): number => {
    const part = partOf(nodes, id, scope)
    return part ? Math.round(db(chainResponse(part, RATE).magnitude[100]!) * 10) / 10 : NaN
  }
  it('up to here goes to the node and no further, through its own branch alone', () => {
    expect(level('first', 'up to here')).toBe(-6)
    expect(level('inner', 'up to here')).toBe(-9)
    expect(level('grouped', 'up to here')).toBeCloseTo(-6 + db(10 ** (-23 / 20) + 1) - 1, 1)
  })
  it('a branch is measured by itself, and there is none outside one', () => {
    expect(level('inner', 'branch')).toBe(-23)
    expect(level('first', 'branch')).toBeNaN()
    expect(partOf(nodes, 'nowhere', 'up to here')).toBeNull()
  })
})
