import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { removeNode } from '@oleaje/core/project/chain-edits'
import { addLink, addModulator, updateLink } from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newSplit } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { goTowards, takeSnapshot, valuesOf } from '@oleaje/core/project/snapshots'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, play, projectOf } from './project-rig'
import { RATE, sine } from './rig'

const made = projectOf(sine(311, 4, 0.4), [
  newEffect('filter', { cutoff: 500 }, 'f'),
  newEffect('eq', {}, 'e'),
  newSplit([newBranch('a', -6, 'ba'), newBranch('b', -6, 'bb')], 's'),
  newEffect('drive', { curve: 0 }, 'd'),
])
const start = edited(
  made.project,
  addModulator('t', 'macro', { id: 'm', params: { value: 0.2 } }),
  addModulator('t', 'lfo', { id: 'l', params: { rate: 0.4 } }),
  addLink('l', { owner: 'e', param: 'gain' }, 0.4, 0.6, { id: 'k' }),
)
const track = (p: Project) => p.tracks[0]!
const moved = edited(
  start,
  setParam('f', 'cutoff', 4000),
  setParam('e', 'bands[1].frequency', 900),
  setParam('ba', 'level', -20),
  setParam('m', 'value', 0.9),
  setParam('l', 'rate', 3.7),
  updateLink('k', { amount: 0.3 }),
  setParam('t', 'level', -9),
  setParam('d', 'curve', 1),
)

describe('a snapshot', () => {
  it('holds all values of a track: effects, lanes, branches, macros, modulators, links and its level', () => {
    const kept = edited(start, takeSnapshot('t', 3))
    const { values } = track(kept).snapshots[0]!
    const back = edited(moved, goTowards(valuesOf(moved, track(moved)), values, 1))
    expect(valuesOf(back, track(back))).toEqual(valuesOf(start, track(start)))
    expect(valuesOf(moved, track(moved))).not.toEqual(valuesOf(start, track(start)))
  })
  it('leaves alone whether the track is heard, and brings back how far each link reaches', () => {
    const kept = edited(start, takeSnapshot('t', 2))
    const muted = edited(kept, setParam('t', 'mute', 1), updateLink('k', { amount: 0.31, on: false }))
    const back = edited(muted, goTowards(valuesOf(muted, track(muted)), track(kept).snapshots[0]!.values, 1))
    expect(track(back).params.mute).toBe(1)
    expect(back.links.map((l) => [l.amount, l.on])).toEqual([[1, true]])
  })
  it('takes the place of the one that was there, nine at most, and keeps its name', () => {
    let p = start
    for (let slot = 0; slot <= 10; slot++) p = edited(p, takeSnapshot('t', slot))
    expect(track(p).snapshots.map((s) => s.id)).toEqual(['1', '2', '3', '4', '5', '6', '7', '8', '9'])
    p = edited(p, takeSnapshot('t', 4, 'Open hatch'))
    p = edited(edited(p, setParam('f', 'cutoff', 77)), takeSnapshot('t', 4))
    expect(track(p).snapshots).toHaveLength(9)
    expect([track(p).snapshots[3]!.name, track(p).snapshots[3]!.values['f.cutoff']]).toEqual([
      'Open hatch',
      77,
    ])
  })
  it('is gone to along each scale, switches at half-way, and leaves alone what is not there any more', () => {
    const from = valuesOf(start, track(start))
    const to = valuesOf(moved, track(moved))
    const half = edited(start, goTowards(from, to, 0.5))
    const value = (p: Project, id: string, k: string): number => valuesOf(p, track(p))[`${id}.${k}`]!
    expect(value(half, 'f', 'cutoff')).toBeCloseTo(Math.sqrt(500 * 4000), 6)
    expect(value(half, 'm', 'value')).toBeCloseTo(0.55, 9)
    expect(
      [0.3, 0.49, 0.5, 0.9].map((way) => value(edited(start, goTowards(from, to, way)), 'd', 'curve')),
    ).toEqual([0, 0, 1, 1])
    const less = edited(start, removeNode('f'))
    const gone = edited(less, goTowards(from, to, 1))
    expect(valuesOf(gone, track(gone))['e.bands[1].frequency']).toBe(900)
  })
  it('is recalled while it plays without a click, at once and with a glide', () => {
    const to = valuesOf(moved, track(moved))
    const from = valuesOf(start, track(start))
    const roughest = (steps: readonly (readonly [block: number, way: number])[], project = start): number => {
      const { left } = play(
        { ...made, project },
        1.6,
        Object.fromEntries(
          steps.map(([block, way]) => [block, (e) => e.update(edited(start, goTowards(from, to, way)))]),
        ),
      )
      let most = 0
      for (let i = 9000; i < left.length; i++)
        most = Math.max(most, Math.abs(left[i]! - 3 * left[i - 1]! + 3 * left[i - 2]! - left[i - 3]!))
      return most
    }
    const at = Math.round((0.6 * RATE) / BLOCK)
    // what the tone itself does before and after
    const calm = Math.max(roughest([]), roughest([], moved))
    expect(roughest([[at, 1]])).toBeLessThan(calm + 0.004)
    expect(roughest(Array.from({ length: 20 }, (_, k) => [at + 6 * k, (k + 1) / 20] as const))).toBeLessThan(
      calm + 0.004,
    )
  })
})
