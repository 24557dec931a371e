import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DrawnShape, bend, bendBlock, type Point } from '@oleaje/core/dsp/drawn-shape'
import { BLOCK } from '@oleaje/core/contract/block'
import { lfoWave } from '@oleaje/core/dsp/lfo-wave'
import { lfoShapes } from '@oleaje/core/modulators/lfo'
import { smoothDrift } from '@oleaje/core/modulators/drift'
import { mix32 } from '@oleaje/core/dsp/random'
import { RATE, modulatorRig } from './rig'

const unit = fc.double({ min: 0, max: 1, noNaN: true })
const point = fc.record({ x: unit, y: unit, bend: fc.double({ min: -1, max: 1, noNaN: true }) })
const points = fc
  .array(point, { minLength: 1, maxLength: 8 })
  .map((list): Point[] => list.sort((a, b) => a.x - b.x))

describe('a bend', () => {
  it('leaves the ends where they are, and rises late above 0 and early below', () => {
    for (const c of [-1, -0.3, 0, 0.2, 1]) {
      expect(bend(0, c)).toBeCloseTo(0, 12)
      expect(bend(1, c)).toBeCloseTo(1, 12)
    }
    expect(bend(0.5, 0.5)).toBeLessThan(0.4)
    expect(bend(0.5, -0.5)).toBeGreaterThan(0.6)
    expect(bend(0.25, 0.6)).toBeCloseTo(1 - bend(0.75, -0.6), 12)
  })
  it('is straight where it is too slight to be told', () => {
    for (const c of [5e-324, 1e-17, 1e-9, -1e-12]) expect(bend(0.3, c)).toBeCloseTo(0.3, 6)
  })
  it('is the same over a block, or over a part of it', () => {
    fc.assert(
      fc.property(
        fc.array(unit, { minLength: 4, maxLength: 20 }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        (list, curve) => {
          const x = Float64Array.from(list)
          bendBlock(x, curve, 1, 3)
          expect([...x]).toEqual(list.map((v, i) => (i === 1 || i === 2 ? bend(v, curve) : v)))
        },
      ),
    )
  })
})

describe('a drawn shape', () => {
  it('gives the same read by blocks as place by place, wherever it goes', () => {
    fc.assert(
      fc.property(
        points,
        fc.array(fc.double({ min: -0.2, max: 1.2, noNaN: true }), { minLength: 1, maxLength: 60 }),
        (list, places) => {
          const one = new DrawnShape(list),
            other = new DrawnShape(list)
          const block = Float64Array.from(places)
          one.read(block)
          places.forEach((x, i) => {
            expect(block[i]).toBeCloseTo(other.at(x), 12)
          })
        },
      ),
    )
  })
  it('stays level before its first and after its last point, and steps where two are at one place', () => {
    const shape = new DrawnShape([
      { x: 0.25, y: 0.2, bend: 0 },
      { x: 0.5, y: 0.6, bend: 0 },
      { x: 0.5, y: 0.9, bend: 0 },
      { x: 0.75, y: 0.1, bend: 0 },
    ])
    const x = Float64Array.of(0, 0.2499, 0.375, 0.49999, 0.5, 0.75, 3)
    shape.read(x)
    const wanted = [0.2, 0.2, 0.4, 0.59998, 0.9, 0.1, 0.1]
    wanted.forEach((y, i) => {
      expect(x[i]).toBeCloseTo(y, 4)
    })
  })
})

describe('waves worked out by blocks', () => {
  it.each(lfoShapes.map((name, shape) => [name, shape] as const).filter(([name]) => name !== 'drawn'))(
    'are those that the picture shows: %s',
    (_, shape) => {
      // another length of cycle than of blocks, and a width and phase of its own
      const rig = modulatorRig('lfo', { shape, rate: 37, width: 0.3, phase: 0.2 }, { seed: 11 })
      const all = rig.run(0.2)
      for (let i = 0; i < all.length; i += 7)
        expect(all[i]).toBeCloseTo(
          lfoWave(shape, 0.2 + (i * 37) / RATE, 0.3, 11),
          shape === 4 || shape === 5 ? 12 : 6,
        )
    },
  )
  it('are those that the picture shows: smooth drift', () => {
    const rig = modulatorRig('drift', { kind: 0, speed: 20, roam: 0 }, { seed: mix32(5) })
    const all = rig.run(0.5)
    for (let i = 0; i < all.length; i += BLOCK / 4)
      expect(all[i]).toBeCloseTo(smoothDrift(mix32(5), ((i + 1) * 20) / RATE), 9)
  })
})
