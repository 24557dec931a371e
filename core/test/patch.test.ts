import { describe, expect, it } from 'vitest'
import { patched } from '@oleaje/core/project/patch'

const doc = { name: 'Night Ferry', tracks: [{ id: 'a', nodes: [{ id: 'f' }, { id: 'd' }] }, { id: 'b', nodes: [] as { id: string }[] }], loop: { start: 0, end: 16 } }
const ids = (list: readonly { id: string }[]): string => list.map((n) => n.id).join('')

describe('patches', () => {
  it('put things into lists, take them out and replace them, in their order', () => {
    const next = patched(doc, [
      { op: 'add', path: ['tracks', 0, 'nodes', 1], value: { id: 'e' } },
      { op: 'remove', path: ['tracks', 0, 'nodes', 0] },
      { op: 'replace', path: ['tracks', 0, 'nodes', 1], value: { id: 'x' } },
      { op: 'add', path: ['tracks', 0, 'nodes', 2], value: { id: 'y' } },
    ])
    expect(ids(next.tracks[0]!.nodes)).toBe('exy')
    expect(ids(patched(next, [{ op: 'replace', path: ['tracks', 0, 'nodes', 'length'], value: 1 }]).tracks[0]!.nodes)).toBe('e')
  })

  it('set and remove fields, those of what came with them too', () => {
    const value = { id: 'n', nodes: [] }
    const next = patched(doc, [
      { op: 'replace', path: ['name'], value: 'Crossing' },
      { op: 'remove', path: ['loop', 'end'] },
      { op: 'add', path: ['tracks', 2], value },
      { op: 'replace', path: ['tracks', 2, 'id'], value: 'm' },
    ])
    expect(next.name).toBe('Crossing')
    expect(next.loop).toEqual({ start: 0 })
    expect(next.tracks[2]!.id).toBe('m')
    // the patch itself can be sent on and kept for undoing
    expect(value.id).toBe('n')
  })

  it('leave the document that was given alone, and share what they do not touch', () => {
    const copy = JSON.stringify(doc)
    const next = patched(doc, [{ op: 'replace', path: ['tracks', 0, 'nodes', 1, 'id'], value: 'z' }])
    expect(JSON.stringify(doc)).toBe(copy)
    expect(next.tracks[1]).toBe(doc.tracks[1])
    expect(next.loop).toBe(doc.loop)
    expect(next.tracks[0]!.nodes[0]).toBe(doc.tracks[0]!.nodes[0])
    expect(next.tracks[0]!.nodes[1]).not.toBe(doc.tracks[0]!.nodes[1])
    expect(patched(doc, [])).toBe(doc)
  })

  it('can replace the whole document, and say so where a path leads nowhere', () => {
    expect(patched<unknown>(doc, [{ op: 'replace', path: [], value: 7 }])).toBe(7)
    expect(() => patched(doc, [{ op: 'replace', path: ['tracks', 5, 'id'], value: 'q' }])).toThrow('not in the project')
    expect(() => patched(doc, [{ op: 'add', path: ['name', 0], value: 'q' }])).toThrow('not in the project')
  })
})
