import { describe, expect, it } from 'vitest'
import type { Engine } from '@oleaje/core/engine/engine'
import { type Monitor, openMonitor } from '@oleaje/core/engine/monitor'
import { newBranch, newEffect, newGroup, newSplit } from '@oleaje/core/project/new'
import { setParam } from '@oleaje/core/project/value-edits'
import { edited, play, projectOf } from './project-rig'
import { RATE, noise } from './rig'

/**
 * gain − [ a: −6 dB, −7 dB | b: −8 dB, in a group −9 dB ] − gain: every gain has a level of its own, so that
 * a sum tells what is heard.
 */
const x = noise(1, 4, 0.2)
function made() {
  const a = newBranch('a', -6, 'ba')
  a.nodes = [newEffect('gain', { level: -6 }, 'a1'), newEffect('gain', { level: -7 }, 'a2')]
  const b = newBranch('b', -6, 'bb')
  b.nodes = [
    newEffect('gain', { level: -8 }, 'b1'),
    newGroup('g', [newEffect('gain', { level: -9 }, 'b2')], 'g'),
  ]
  return projectOf(x, [
    newEffect('gain', { level: -1 }, 'first'),
    newSplit([a, b], 's'),
    newEffect('gain', { level: -3 }, 'last'),
  ])
}
const gain = (...db: number[]): number => 10 ** (db.reduce((s, v) => s + v, 0) / 20)

/** The gain of the whole chain as it is heard. */
function heard(monitor: Partial<Monitor>, project = made().project): number {
  const p = made()
  const { left } = play({ ...p, project }, 0.6, {
    0: (e: Engine) => e.setMonitor({ ...openMonitor, ...monitor }),
  })
  const at = Math.round(0.5 * RATE)
  return left[at]! / x[at]!
}

describe('up to here', () => {
  const a = gain(-6, -7, -6)
  const b = gain(-8, -9, -6)
  it.each([
    ['an effect before a split leaves out the split and all that follows', 'first', gain(-1)],
    [
      'the first effect of a branch leaves the rest of that branch out and no other',
      'a1',
      gain(-1) * (gain(-6, -6) + b),
    ],
    ['the last effect of a branch leaves out what comes after the split', 'a2', gain(-1) * (a + b)],
    ['an effect in the other branch does the same there', 'b1', gain(-1) * (a + gain(-8, -6))],
    ['an effect in a group within a branch keeps what comes before it', 'b2', gain(-1) * (a + b)],
    ['the group itself is heard with all that is in it', 'g', gain(-1) * (a + b)],
    ['the split itself is heard with all that is in it', 's', gain(-1) * (a + b)],
    ['the last effect changes nothing', 'last', gain(-1, -3) * (a + b)],
  ])('%s', (_, upTo, expected) => {
    expect(heard({ upTo })).toBeCloseTo(expected, 4)
  })
  it('of the wet part of an effect in a branch leaves the other branch as it is', () => {
    const { project } = made()
    expect(heard({ part: { node: 'a1', what: 'difference' } }, project)).toBeCloseTo(
      gain(-1) * ((gain(-6) - 1) * gain(-6) + b),
      4,
    )
  })
  it('leaves alone what is switched off', () => {
    expect(heard({ upTo: 's' }, edited(made().project, setParam('s', 'on', 0)))).toBeCloseTo(gain(-1), 4)
  })
})
