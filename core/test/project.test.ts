import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { effects } from '@oleaje/core/effects/index'
import {
  addBranch,
  addNode,
  addTrack,
  copyToOther,
  duplicateNode,
  hear,
  moveNode,
  removeBranch,
  removeNode,
  removeTrack,
  shiftNode,
  putAround,
  unwrap,
} from '@oleaje/core/project/chain-edits'
import { apply, type Edit } from '@oleaje/core/project/edit'
import {
  addLink,
  addModulator,
  duplicateModulator,
  removeLink,
  removeModulator,
  setLinkEnds,
  setLinkMode,
} from '@oleaje/core/project/motion-edits'
import { type Patch, patched } from '@oleaje/core/project/patch'
import { duplicateTrack } from '@oleaje/core/project/preset'
import { setParam } from '@oleaje/core/project/value-edits'
import { newBranch, newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { ProjectError, checkProject, readProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { linkEnds } from '@oleaje/core/project/targets'
import { findOwner, heardChain, nodesIn } from '@oleaje/core/project/walk'
import { planRender, render } from '@oleaje/core/render/render'

function sample(): Project {
  const p = newProject('sample')
  const t = newTrack('one', newSource('tone', { wave: 2 }, null, 'src'), 't')
  t.a.nodes = [newEffect('filter', {}, 'f'), newEffect('delay', {}, 'd')]
  p.tracks.unshift(t)
  return [
    addModulator('t', 'lfo', { id: 'l' }),
    addLink('l', { owner: 'f', param: 'cutoff' }, 0.2, 0.8, { id: 'k' }),
  ].reduce((q, e) => apply(q, e as Edit).next, p)
}

/** Any edit, aimed at things that may or may not be there. */
const anyEdit = (p: Project): fc.Arbitrary<Edit> => {
  const nodes = p.tracks.flatMap((t) => [...nodesIn(heardChain(t).nodes)].map((n) => n.id))
  const tracks = p.tracks.map((t) => t.id)
  const node = fc.constantFrom(...(nodes.length ? nodes : ['none']))
  const track = fc.constantFrom(...tracks)
  const modulator = fc.constantFrom(...p.tracks.flatMap((t) => t.modulators.map((m) => m.id)), 'none')
  const spot = fc.oneof(
    node.map((after) => ({ after })),
    track.map((startOf) => ({ startOf })),
  )
  const place = fc.double({ min: 0, max: 1, noNaN: true })
  return fc.oneof(
    fc
      .tuple(fc.constantFrom(...effects.map((e) => e.id)), spot)
      .map(([type, s]) => addNode(newEffect(type), s)),
    node.map(removeNode),
    node.map((id) => duplicateNode(id)),
    node.map((id) => putAround('split', [id])),
    node.map((id) => putAround('group', [id])),
    node.map(unwrap),
    fc.tuple(node, spot).map(([id, s]) => moveNode(id, s)),
    node.map((id) => shiftNode(id, 1)),
    node.map((id) => addBranch(id, newBranch('more'))),
    fc.tuple(node, place).map(([id, x]) => setParam(id, 'wet', x)),
    fc.tuple(track, fc.constantFrom('lfo', 'follower', 'macro')).map(([t, type]) => addModulator(t, type)),
    modulator.map(removeModulator),
    modulator.map((id) => duplicateModulator(id, true)),
    fc
      .tuple(modulator, node, place, place)
      .map(([m, owner, a, b]) => addLink(m, { owner, param: 'wet' }, a, b)),
    track.map((t) => hear(t, 'b')),
    track.map((t) => hear(t, 'a')),
    track.map(copyToOther),
    track.map(removeTrack),
    fc.constant(addTrack(newTrack('more', newSource('tone')))),
  )
}

describe('edits', () => {
  it('any run of edits leaves a valid project, and undoing them all gives the first one back', () => {
    fc.assert(
      fc.property(fc.infiniteStream(fc.nat()), (numbers) => {
        const first = sample()
        let now = first
        const undo: (readonly Patch[])[] = []
        for (let i = 0; i < 25; i++) {
          const seed = numbers.next().value as number
          const edit = fc.sample(anyEdit(now), { numRuns: 1, seed })[0] as Edit
          const change = apply(now, edit)
          undo.push(change.inverse)
          // carried to the sound and to other tabs as patches: these must come to the same, there and back
          expect(patched(now, change.patches)).toEqual(change.next)
          expect(patched(change.next, change.inverse)).toEqual(now)
          now = change.next
          checkProject(JSON.parse(JSON.stringify(now)))
        }
        for (const inverse of undo.reverse()) now = patched(now, inverse)
        expect(now).toEqual(first)
      }),
      { numRuns: 60 },
    )
  })
  it('leaves the project that it was given alone, and shares what did not change', () => {
    const p = sample()
    const copy = JSON.stringify(p)
    const { next } = apply(p, setParam('f', 'cutoff', 500))
    expect(JSON.stringify(p)).toBe(copy)
    expect(next.tracks[1]).toBe(p.tracks[1])
  })
  it('removing an effect takes its links along, and undo brings both back', () => {
    const p = sample()
    const { next, inverse } = apply(p, removeNode('f'))
    expect(next.links).toHaveLength(0)
    expect(patched(next, inverse)).toEqual(p)
  })
  it('changing between floating and fixed leaves the range where it stands', () => {
    const p = sample()
    const spec = effects.find((e) => e.id === 'filter')!.params.cutoff!
    const ends = linkEnds(p.links[0]!, spec, 1000)
    const { next } = apply(p, setLinkMode('k', 'fixed'))
    const fixed = linkEnds(next.links[0]!, spec, 1000)
    expect(fixed.from).toBeCloseTo(ends.from, 9)
    expect(fixed.to).toBeCloseTo(ends.to, 9)
    expect(apply(next, setLinkEnds('k', 0.1, 0.9)).next.links[0]).toMatchObject({ from: 0.1, to: 0.9 })
    expect(apply(next, removeLink('k')).next.links).toHaveLength(0)
  })
  it('moving into itself, or removing the last branch, changes nothing', () => {
    const p = apply(sample(), putAround('split', ['f'], 's')).next
    const split = findOwner(p, 's')
    if (split?.kind !== 'node' || split.node.kind !== 'split') throw new Error('no split')
    const branch = split.node.branches[0]!
    expect(apply(p, moveNode('s', { startOf: branch.id })).patches).toHaveLength(0)
    const one = apply(p, removeBranch(branch.id)).next
    const left = findOwner(one, 's')
    if (left?.kind !== 'node' || left.node.kind !== 'split') throw new Error('no split')
    expect(apply(one, removeBranch(left.node.branches[0]!.id)).patches).toHaveLength(0)
  })
})

describe('any valid project renders with finite, bounded output', () => {
  it('after random edits, all wet and linked', () => {
    fc.assert(
      fc.property(fc.infiniteStream(fc.nat()), (numbers) => {
        let p = sample()
        for (let i = 0; i < 14; i++)
          p = apply(
            p,
            fc.sample(anyEdit(p), { numRuns: 1, seed: numbers.next().value as number })[0] as Edit,
          ).next
        for (const { channels } of render(planRender(p, { from: 0, to: 0.3, tail: 0.1 }), () => null)) {
          for (const c of channels) for (const v of c) if (!(Math.abs(v) < 1000)) throw new Error(`gave ${v}`)
        }
      }),
      { numRuns: 12 },
    )
  })
})

describe('reading projects', () => {
  const text = (change: (p: Record<string, unknown> & Project) => void): string => {
    const p = JSON.parse(JSON.stringify(sample()))
    change(p)
    return JSON.stringify(p)
  }
  it('takes what was written', () => {
    const p = sample()
    expect(readProject(JSON.stringify(p))).toEqual(p)
  })
  const bad: [string, string, RegExp][] = [
    ['no JSON', '{"format": "oleaje-pro', /not valid JSON/],
    ['something else', '{"a": 1}', /not an Oleaje project/],
    [
      'from the future',
      text((p) => {
        ;(p as { version: number }).version = 99
      }),
      /newer Oleaje \(version 99\)/,
    ],
    [
      'no version',
      text((p) => {
        delete (p as { version?: number }).version
      }),
      /no version number/,
    ],
    [
      'missing audio',
      text((p) => {
        p.tracks[0]!.source!.audio = 'gone'
      }),
      /plays audio that the project does not list, “gone”/,
    ],
    [
      'duplicate ids',
      text((p) => {
        p.tracks[0]!.a.nodes[1]!.id = 'f'
      }),
      /same id, “f”/,
    ],
    [
      'a link from nowhere',
      text((p) => {
        p.links[0]!.source = 'ghost'
      }),
      /modulator that does not exist, “ghost”/,
    ],
    [
      'no mix at the end',
      text((p) => {
        p.tracks.reverse()
      }),
      /mix/,
    ],
    [
      'a number that is none',
      text((p) => {
        ;(p as { tempo: unknown }).tempo = 'fast'
      }),
      /at tempo/,
    ],
    [
      '10⁵ links',
      text((p) => {
        p.links = Array.from({ length: 1e5 }, (_, i) => ({ ...p.links[0]!, id: `k${i}` }))
      }),
      /at links|more than 1,000,000 values/,
    ],
    ['forbidden names', '{"format":"oleaje-project","version":1,"__proto__":{"x":1}}', /forbidden name/],
    [
      'endless nesting',
      `{"format":"oleaje-project","a":${'['.repeat(500)}${']'.repeat(500)}}`,
      /nested too deeply/,
    ],
    [
      'a split in itself without end',
      text((p) => {
        let list = p.tracks[0]!.a.nodes
        for (let i = 0; i < 20; i++) {
          const next: typeof list = []
          list.push({ kind: 'group', id: `g${i}`, params: {}, nodes: next } as never)
          list = next
        }
      }),
      /nested more than 12 deep/,
    ],
  ]
  it.each(bad)('%s gets its sentence', (_name, file, sentence) => {
    expect(() => readProject(file)).toThrow(ProjectError)
    expect(() => readProject(file)).toThrow(sentence)
  })
})

describe('names of copies', () => {
  it('take the next number that is free, and never pile up', () => {
    let p = sample()
    for (let i = 0; i < 3; i++) p = apply(p, duplicateTrack(p.tracks[i]!.id, `copy${i}`)).next
    expect(p.tracks.map((t) => t.name).slice(0, 4)).toEqual(['one', 'one 2', 'one 3', 'one 4'])
    p = [duplicateModulator('l', false, 'l2'), duplicateModulator('l2', false, 'l3')].reduce(
      (q, e) => apply(q, e).next,
      p,
    )
    const names = p.tracks[0]!.modulators.map((m) => m.name)
    expect(names[0]).toBe('LFO')
    expect(new Set(names).size).toBe(3)
    expect(names.every((n) => /^LFO( \d+)?$/.test(n))).toBe(true)
  })
})
