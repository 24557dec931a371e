import { describe, expect, it } from 'vitest'
import type { Edit } from '@oleaje/core/project/edit'
import {
  copyColumn,
  diceColumn,
  evenColumn,
  gatherColumn,
  leanColumn,
  reverseColumn,
  rotateColumn,
} from '@oleaje/core/project/lane-edits'
import { newEffect } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, projectOf } from './project-rig'

const start = projectOf(new Float32Array(64), [
  {
    ...newEffect('taps', {}, 'a'),
    lanes: { taps: [0, -3, -6, -9, -12].map((level, k) => ({ level, pan: k / 4 - 0.5 })) },
  },
]).project
const column = (p: Project, param: string): (number | undefined)[] => {
  const node = p.tracks[0]!.a.nodes[0]!
  return (node.lanes?.taps ?? []).map((t) => t[param])
}

describe('columns of a lane', () => {
  const level = { owner: 'a', lane: 'taps', param: 'level' }
  it('are diced within their range, the same by the same seed, and the locked stay', () => {
    const a = edited(start, diceColumn({ ...level, locked: [1, 3] }, 71)),
      b = edited(start, diceColumn({ ...level, locked: [1, 3] }, 71))
    expect(column(a, 'level')).toEqual(column(b, 'level'))
    expect([column(a, 'level')[1], column(a, 'level')[3]]).toEqual([-3, -9])
    // no tap vanishes: a diced level is at most 18 dB below the default
    for (let seed = 0; seed < 40; seed++)
      for (const v of column(edited(start, diceColumn(level, seed)), 'level')) {
        expect(v).toBeGreaterThanOrEqual(-18)
        expect(v).toBeLessThanOrEqual(0)
      }
    expect(column(a, 'level')[0]).not.toBe(0)
    expect(column(a, 'pan')).toEqual(column(start, 'pan'))
    const choices = column(edited(start, diceColumn({ ...level, param: 'filter' }, 5)), 'filter')
    for (const v of choices) expect([0, 1, 2, 3, 4]).toContain(v)
  })
  it('are reversed and rotated round what is locked', () => {
    expect(column(edited(start, reverseColumn(level)), 'level')).toEqual([-12, -9, -6, -3, 0])
    expect(column(edited(start, rotateColumn(level, 1)), 'level')).toEqual([-12, 0, -3, -6, -9])
    expect(column(edited(start, rotateColumn(level, -1)), 'level')).toEqual([-3, -6, -9, -12, 0])
    expect(column(edited(start, rotateColumn({ ...level, locked: [2] }, 1)), 'level')).toEqual([
      -12, 0, -6, -3, -9,
    ])
  })
  it('are gathered, spread, leant and evened out on their scale', () => {
    const pans = (e: Edit): number[] =>
      column(edited(start, e), 'pan').map((v) => Math.round((v ?? 0) * 1e6) / 1e6)
    const pan = { ...level, param: 'pan' }
    expect(pans(gatherColumn(pan, 0.5))).toEqual([-0.25, -0.125, 0, 0.125, 0.25])
    expect(pans(gatherColumn(pan, -1))).toEqual([-1, -0.5, 0, 0.5, 1])
    expect(pans(leanColumn(pan, 0.1))).toEqual([-0.6, -0.3, 0, 0.3, 0.6])
    const uneven = edited(start, setParam('a', 'taps[1].pan', 0.9))
    expect(column(edited(uneven, evenColumn(pan)), 'pan')).toEqual([-0.5, -0.25, 0, 0.25, 0.5])
    expect(column(edited(uneven, evenColumn({ ...pan, locked: [1] })), 'pan')[1]).toBe(0.9)
  })
  it('of which all items are set at once move by the same distance, and keep it at the ends', () => {
    const at = (p: Project): number[] => column(p, 'level').map((v) => v ?? 0)
    const down = edited(start, setParam('a', 'taps[*].level', -16))
    expect(at(down).map((v) => Math.round(v * 1e6) / 1e6)).toEqual([-10, -13, -16, -19, -22])
    const low = edited(start, setParam('a', 'taps[*].level', -60))
    const distances = at(low)
      .slice(1)
      .map((v, i) => Math.round((v - at(low)[i]!) * 1e6) / 1e6)
    expect(distances).toEqual([-3, -3, -3, -3])
    // a choice is the same for all
    expect(column(edited(start, setParam('a', 'taps[*].filter', 2)), 'filter')).toEqual([2, 2, 2, 2, 2])
  })
  it('are copied place for place', () => {
    const p = edited(start, copyColumn({ ...level, param: 'resonance' }, 'pan'))
    expect(column(p, 'resonance')).toEqual([0.25, 0.375, 0.5, 0.625, 0.75])
  })
})
