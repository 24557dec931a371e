import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { effects } from '@oleaje/core/effects/index'
import { referencePages } from '@oleaje/core/reference'
import { describe, expect, it } from 'vitest'

describe('the reference', () => {
  it.each(Object.entries(referencePages()))('%s is as the definitions are', (name, text) => {
    expect(readFileSync(join(import.meta.dirname, '../../docs/reference', name), 'utf8')).toBe(text)
  })
})

describe('the groups of gauges', () => {
  it('hold each parameter of their effect exactly once', () => {
    for (const e of effects)
      if (e.groups)
        expect(e.groups.flatMap((g) => g.gauges).sort(), e.id).toEqual(Object.keys(e.params).sort())
  })
  it('are named where an effect has more than seven parameters', () => {
    expect(effects.filter((e) => Object.keys(e.params).length > 7 && !e.groups).map((e) => e.id)).toEqual([])
  })
  it('have at most seven main ones, of which a note length takes the place of its time', () => {
    for (const e of effects) {
      expect(e.main?.length ?? 0, e.id).toBeLessThanOrEqual(7)
      for (const param of e.main ?? []) expect(Object.keys(e.params), e.id).toContain(param)
    }
  })
  it('show a gauge for every parameter in some state', () => {
    // choices and amounts by chance, the same each time
    const states = Array.from({ length: 200 }, (_, seed) => (other: string) => {
      let hash = seed
      for (const letter of other) hash = (hash * 31 + letter.charCodeAt(0)) % 9973
      return hash % 4
    })
    const moved = (e: (typeof effects)[number], param: string): boolean =>
      !e.applies || states.some((value) => e.applies?.(param, value))
    for (const e of effects)
      expect(
        Object.keys(e.params).filter((param) => !moved(e, param)),
        e.id,
      ).toEqual([])
  })
})
