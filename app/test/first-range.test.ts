import { describe, expect, it } from 'vitest'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { apply } from '@oleaje/core/project/edit'
import { newProject } from '@oleaje/core/project/new'
import { gain, hertz } from '@oleaje/core/units/parameter'
import { fromNormalized, toNormalized } from '@oleaje/core/units/scale'
import { firstRange, isOneSided } from '../composables/first-range'

const level = gain('Level', { min: -72, max: 12, default: 0 })
const cutoff = hertz('Cutoff', { min: 20, max: 20_000, default: 1000 })
const values = (spec: typeof level, base: number, oneSided: boolean): number[] => {
  const { from, to } = firstRange(spec, base, oneSided)
  return [fromNormalized(spec, from), fromNormalized(spec, to)].map((v) => Math.round(v * 10) / 10)
}

describe('the first range of a link', () => {
  it('is six decibels to each side on a level, and from the base on for what rests at its lowest', () => {
    expect(values(level, -7, false)).toEqual([-13, -1])
    expect(values(level, 3, false)).toEqual([-3, 9])
    expect(values(level, -7, true)).toEqual([-7, -1])
    // where there is no room above, it goes down
    expect(values(level, 11, true)).toEqual([11, 5])
  })
  it('is a fifth of the scale to each side of anything else, or two fifths one way', () => {
    const at = toNormalized(cutoff, 311)
    expect(firstRange(cutoff, 311, false)).toEqual({ from: at - 0.2, to: at + 0.2 })
    expect(firstRange(cutoff, 311, true)).toEqual({ from: at, to: at + 0.4 })
    expect(firstRange(cutoff, 20_000, true)).toEqual({ from: 1, to: 0.6 })
  })
  it('is one-sided for macros, followers and envelopes', () => {
    let p = newProject('x')
    for (const type of ['macro', 'follower', 'envelope', 'lfo', 'drift'])
      p = apply(p, addModulator(p.tracks[0]!.id, type, { id: type })).next
    expect(
      ['macro', 'follower', 'envelope', 'lfo', 'drift', 'nobody'].map((id) => isOneSided(p, id)),
    ).toEqual([true, true, true, false, false, false])
  })
})
