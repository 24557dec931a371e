import { describe, expect, it } from 'vitest'
import { effectDefinition } from '@oleaje/core/effects/index'
import { pairGauges } from '../composables/time-pair'

const specs = effectDefinition('tremolo')!.params
const names = Object.keys(specs)
const shown = (sync: number, moved: readonly string[] = []): string[] =>
  pairGauges(
    specs,
    names,
    (p) => moved.includes(p),
    (p) => (p === 'sync' ? sync : 0),
  ).map((g) => g.param)

describe('a rate in Hz or as a note length', () => {
  it('is one gauge, of the one that counts', () => {
    expect([shown(0).includes('rate'), shown(0).includes('length'), shown(0).includes('sync')]).toEqual([
      true,
      false,
      false,
    ])
    expect([shown(1).includes('rate'), shown(1).includes('length')]).toEqual([false, true])
    expect(shown(0)).toHaveLength(names.length - 2)
  })
  it('shows the other one too where something moves it, and all three where the switch itself is moved', () => {
    expect(shown(0, ['length'])).toContain('length')
    expect(shown(0, ['sync'])).toEqual(names)
  })
  it('leaves alone what has no such pair', () => {
    const filter = effectDefinition('filter')!.params
    expect(
      pairGauges(
        filter,
        Object.keys(filter),
        () => false,
        () => 0,
      ).map((g) => g.param),
    ).toEqual(Object.keys(filter))
  })
})
