import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { type Patch, difference, patched } from '@oleaje/core/project/patch'

const doc = {
  name: 'Night Ferry',
  tracks: [
    { id: 'a', nodes: [{ id: 'f' }, { id: 'd' }] },
    { id: 'b', nodes: [] as { id: string }[] },
  ],
  loop: { start: 0, end: 16 },
  curve: [0, 1, 4],
}
const ids = (list: readonly { id: string }[]): string => list.map((n) => n.id).join('')
const nodes = ['tracks', { id: 'a' }, 'nodes']

describe('patches', () => {
  it('put things into lists, take them out and move them, by their ids', () => {
    const next = patched(doc, [
      { op: 'insert', path: nodes, value: { id: 'e' }, after: 'f' },
      { op: 'remove', path: nodes, id: 'f' },
      { op: 'insert', path: nodes, value: { id: 'y' }, after: null },
      { op: 'move', path: nodes, id: 'd', after: 'y' },
    ])
    expect(ids(next.tracks[0]!.nodes)).toBe('yde')
  })
  it('mean the same whatever came and went before them', () => {
    const rename: Patch = { op: 'set', path: ['tracks', { id: 'b' }, 'name'], value: 'Bass' }
    const first = patched(doc, [{ op: 'remove', path: ['tracks'], id: 'a' }, rename])
    const second = patched(doc, [rename, { op: 'remove', path: ['tracks'], id: 'a' }])
    expect(first).toEqual(second)
  })
  it('set and unset fields, also in what came with them, which stays as it was sent', () => {
    const value = { id: 'n', nodes: [] }
    const next = patched(doc, [
      { op: 'set', path: ['name'], value: 'Crossing' },
      { op: 'unset', path: ['loop', 'end'] },
      { op: 'insert', path: ['tracks'], value, after: 'b' },
      { op: 'set', path: ['tracks', { id: 'n' }, 'name'], value: 'm' },
      { op: 'set', path: ['curve', 1], value: 2 },
    ])
    expect([next.name, next.loop, next.curve]).toEqual(['Crossing', { start: 0 }, [0, 2, 4]])
    expect(next.tracks[2]).toEqual({ id: 'n', nodes: [], name: 'm' })
    expect(value).toEqual({ id: 'n', nodes: [] })
  })
  it('leave the document that was given alone, and share what they do not touch', () => {
    const copy = JSON.stringify(doc)
    const next = patched(doc, [{ op: 'set', path: [...nodes, { id: 'd' }, 'type'], value: 'z' }])
    expect(JSON.stringify(doc)).toBe(copy)
    expect(next.tracks[1]).toBe(doc.tracks[1])
    expect(next.tracks[0]!.nodes[0]).toBe(doc.tracks[0]!.nodes[0])
    expect(next.tracks[0]!.nodes[1]).not.toBe(doc.tracks[0]!.nodes[1])
    expect(patched(doc, [])).toBe(doc)
  })
  it('say so where a path leads nowhere, or leave that out where they are told to', () => {
    expect(patched<unknown>(doc, [{ op: 'set', path: [], value: 7 }])).toBe(7)
    const stray: Patch[] = [
      { op: 'set', path: ['tracks', { id: 'q' }, 'id'], value: 'q' },
      { op: 'insert', path: ['name'], value: { id: 'q' }, after: null },
      { op: 'remove', path: ['tracks'], id: 'q' },
      { op: 'insert', path: ['tracks'], value: { id: 'a' }, after: null },
      { op: 'set', path: ['curve', 9], value: 1 },
      { op: 'unset', path: ['name', 'x', 'y'] },
    ]
    for (const patch of stray) {
      expect(() => patched(doc, [patch])).toThrow('project')
      expect(patched(doc, [patch, { op: 'set', path: ['name'], value: 'on' }], true)).toEqual({
        ...doc,
        name: 'on',
      })
    }
  })
})

describe('the difference between two documents', () => {
  it('is nothing between equal ones, and one change for one', () => {
    expect(difference(doc, JSON.parse(JSON.stringify(doc)))).toEqual([])
    expect(difference(doc, { ...doc, tracks: [doc.tracks[1], doc.tracks[0]] })).toHaveLength(1)
    expect(difference(doc, { ...doc, curve: [0, 1, 5] })).toEqual([
      { op: 'set', path: ['curve', 2], value: 5 },
    ])
    expect(difference(doc, { ...doc, curve: [0, 1] })).toEqual([
      { op: 'set', path: ['curve'], value: [0, 1] },
    ])
  })
  it('leads from the one to the other, whatever they are', () => {
    const item = fc.record({
      id: fc.constantFrom(...'abcdefgh'),
      v: fc.integer({ min: 0, max: 3 }),
      inner: fc.uniqueArray(fc.record({ id: fc.constantFrom('x', 'y', 'z'), w: fc.boolean() }), {
        selector: (i) => i.id,
      }),
    })
    const any = fc.record({
      items: fc.uniqueArray(item, { selector: (i) => i.id }),
      plain: fc.array(fc.integer({ min: 0, max: 9 })),
      points: fc.array(fc.record({ x: fc.integer({ min: 0, max: 2 }) })),
      a: fc.option(fc.integer(), { nil: undefined }),
      b: fc.dictionary(fc.constantFrom('p', 'q', 'r'), fc.oneof(fc.integer(), fc.constant(null))),
    })
    fc.assert(
      fc.property(any, any, (before, after) => {
        expect(patched(before, difference(before, after))).toEqual(after)
      }),
      { numRuns: 500 },
    )
  })
})
