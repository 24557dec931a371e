import { describe, expect, it } from 'vitest'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { apply } from '@oleaje/core/project/edit'
import { newProject } from '@oleaje/core/project/new'
import { effectDefinition } from '@oleaje/core/effects/index'
import { linkParams } from '@oleaje/core/project/targets'
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
    // where there is no room above, it comes up to the base
    expect(values(level, 11, true)).toEqual([5, 11])
  })
  it('is a fifth of the scale to each side of anything else, or two fifths one way', () => {
    const at = toNormalized(cutoff, 311)
    expect(firstRange(cutoff, 311, false)).toEqual({ from: at - 0.2, to: at + 0.2 })
    expect(firstRange(cutoff, 311, true)).toEqual({ from: at, to: at + 0.4 })
    expect(firstRange(cutoff, 20_000, true)).toEqual({ from: 0.6, to: 1 })
  })
  it('goes from nothing to the present value on an amount, and a short time stays short', () => {
    const { amount } = linkParams
    expect(firstRange(amount, 0.73, true)).toEqual({ from: 0, to: 0.73 })
    expect(firstRange(amount, 1, true)).toEqual({ from: 0, to: 1 })
    const { time } = effectDefinition('delay')!.params
    const of = (oneSided: boolean): number[] => {
      const { from, to } = firstRange(time!, 0.014, oneSided)
      return [from, to].map((at) => Math.round(fromNormalized(time!, at) * 1e4) / 1e4)
    }
    expect(of(false)).toEqual([0.007, 0.028])
    expect(of(true)).toEqual([0.014, 0.028])
  })
  it('of a gate crosses its threshold', () => {
    const { hold } = effectDefinition('stutter')!.params
    for (const oneSided of [true, false]) expect(firstRange(hold!, 0, oneSided)).toEqual({ from: 0, to: 1 })
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
