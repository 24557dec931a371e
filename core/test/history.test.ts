import { describe, expect, it } from 'vitest'
import {
  addBranch,
  addNode,
  addTrack,
  copyToOther,
  duplicateNode,
  hear,
  moveNode,
  removeNode,
  removeTrack,
  rename,
  shiftNode,
  putAround,
  unwrap,
} from '@oleaje/core/project/chain-edits'
import { type Edit, apply } from '@oleaje/core/project/edit'
import { type Gesture, History, momentOf } from '@oleaje/core/project/history'
import {
  addLink,
  addModulator,
  duplicateModulator,
  removeLink,
  removeModulator,
  updateLink,
} from '@oleaje/core/project/motion-edits'
import { newBranch, newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { addLaneItem, removeLaneItem, setData, setParam } from '@oleaje/core/project/value-edits'
import { branchesOf } from '@oleaje/core/project/nodes/index'
import { patched } from '@oleaje/core/project/patch'
import type { Project } from '@oleaje/core/project/schema'
import { heardChain, nodesIn } from '@oleaje/core/project/walk'

function start(): Project {
  const track = newTrack('Kit', newSource('tone', {}, null, 'src'), 't')
  track.a.nodes = [newEffect('filter', {}, 'f'), newEffect('eq', {}, 'e'), newEffect('gain', {}, 'g')]
  const project = newProject('Night Ferry')
  project.tracks.unshift(track)
  return apply(project, (p) => {
    addModulator('t', 'lfo', { id: 'm' })(p)
    addLink('m', { owner: 'f', param: 'cutoff' }, 0.2, 0.6, { id: 'k' })(p)
  }).next
}
const begin = (project = start()): History => new History(momentOf(project))
const value = (p: Project, id: string, param: string): number | undefined =>
  [...nodesIn(p.tracks[0]!.a.nodes)].find((n) => n.id === id)?.params[param]

describe('a gesture', () => {
  it('is one step, however often a value is set, and none where nothing changed', () => {
    const history = begin()
    const before = history.project
    const drag = history.gesture('Drag')
    for (let q = 1; q < 9; q += 0.37) drag.edit(setParam('f', 'resonance', q))
    drag.edit(setParam('f', 'cutoff', 311))
    drag.end()
    expect(history.undo).toHaveLength(1)
    expect(history.undo[0]!.patches).toHaveLength(2)
    history.stepBack()
    expect(history.project).toEqual(before)
    const none = history.gesture('Nothing')
    none.edit(setParam('f', 'resonance', value(before, 'f', 'resonance')!))
    none.end()
    expect([history.undo.length, history.redo.length]).toEqual([0, 1])
  })
  it('keeps what others do meanwhile apart: a device turns a gain while a node is deleted, and undo loses nothing', () => {
    const history = begin()
    const before = history.project
    const device = history.gesture('Ride')
    device.edit(setParam('g', 'level', -7))
    history.edit('Remove EQ', removeNode('e'))
    device.edit(setParam('g', 'level', -13))
    device.end()
    expect(history.undo.map((s) => s.label)).toEqual(['Remove EQ', 'Ride'])
    const after = history.project
    history.stepBack()
    expect(value(history.project, 'g', 'level')).toBe(value(before, 'g', 'level'))
    expect(heardChain(history.project.tracks[0]!).nodes.map((n) => n.id)).toEqual(['f', 'g'])
    history.stepBack()
    expect(history.project).toEqual(before)
    history.stepForward()
    history.stepForward()
    expect(history.project).toEqual(after)
  })
  it('whose target goes leaves nothing behind, and may go on without harm', () => {
    const history = begin()
    const before = history.project
    const drag = history.gesture('Drag')
    drag.edit(setParam('e', 'gain', -3))
    history.edit('Remove EQ', removeNode('e'))
    expect(drag.edit(setParam('e', 'gain', -5))).toEqual([])
    drag.end()
    while (history.undo.length) history.stepBack()
    expect(history.project).toEqual(before)
  })
  it('does nothing after its end', () => {
    const history = begin()
    const drag = history.gesture('Drag')
    drag.end()
    expect(drag.edit(setParam('f', 'resonance', 5))).toEqual([])
    expect(drag.isOpen).toBe(false)
  })
  it('is a provisional step of what is saved while it lasts', () => {
    const history = begin()
    const before = history.project
    history.edit('Rename', rename('t', 'Deck'))
    const drag = history.gesture('Drag')
    drag.edit(setParam('f', 'resonance', 5))
    const { project, undo } = history.moment
    expect(undo.map((s) => s.label)).toEqual(['Rename', 'Drag'])
    const again = new History({ project, undo, redo: [] })
    again.stepBack()
    again.stepBack()
    expect(again.project).toEqual(before)
    expect(history.undo).toHaveLength(1)
    drag.end()
  })
  it('ends before anything is undone', () => {
    const history = begin()
    const drag = history.gesture('Drag')
    drag.edit(setParam('f', 'resonance', 5))
    history.stepBack()
    expect(drag.isOpen).toBe(false)
    expect(history.redo.map((s) => s.label)).toEqual(['Drag'])
  })
})

describe('which of A and B is heard', () => {
  it('is part of the history: undo of all leads back, redo of all gives the same bytes', () => {
    const first = begin().project
    const history = new History(momentOf(first))
    history.edit('Switch A/B', hear('t', 'b'), true)
    history.edit('Add', addNode(newEffect('delay', {}, 'dd'), { startOf: 't' }))
    history.edit('Add', addNode(newEffect('reverb', {}, 'rr'), { after: 'dd' }))
    const last = JSON.stringify(history.project)
    while (history.undo.length) history.stepBack()
    expect(history.project).toEqual(first)
    while (history.redo.length) history.stepForward()
    expect(JSON.stringify(history.project)).toBe(last)
  })
  it('back and forth is one step, and none where it ends as it began', () => {
    const first = begin().project
    const history = new History(momentOf(first))
    for (const state of ['b', 'a', 'b', 'a', 'b'] as const) history.edit('Switch A/B', hear('t', state), true)
    expect(history.undo.length).toBe(1)
    history.stepBack()
    expect(history.project).toEqual(first)
  })
})

describe('random edits by a pointer, a device, a recorder and a keyboard at once', () => {
  const runs = process.env.OLEAJE_LONG ? 2000 : 400
  function dice(seed: number): (n: number) => number {
    let x = seed * 7919 + 1
    return (n) => {
      x = (Math.imul(x, 1664525) + 1013904223) | 0
      return (x >>> 8) % n
    }
  }
  function randomEdit(p: Project, roll: (n: number) => number): Edit {
    const pick = <T>(list: readonly T[]): T | undefined => list[roll(list.length || 1)]
    const tracks = p.tracks.slice(0, -1)
    const track = pick(tracks)?.id ?? 'none'
    const nodes = p.tracks.flatMap((t) => [...nodesIn(heardChain(t).nodes)])
    const node = pick(nodes)?.id ?? 'none'
    const other = pick(nodes)?.id ?? 'none'
    const modulators = p.tracks.flatMap((t) => t.modulators)
    const modulator = pick(modulators)?.id ?? 'none'
    const link = pick(p.links)?.id ?? 'none'
    const branch = pick(nodes.flatMap(branchesOf))?.id ?? 'none'
    const edits: Edit[] = [
      setParam(node, 'on', roll(2)),
      setParam(node, 'level', -roll(30)),
      setParam(node, 'resonance', 0.5 + roll(8)),
      setParam(node, 'bands[1].gain', roll(9) - 4),
      setParam(track, 'pan', roll(3) - 1),
      setParam(branch, 'level', -roll(20)),
      addNode(newEffect(pick(['gain', 'eq', 'delay', 'filter']) ?? 'gain'), { after: node }),
      addNode(newEffect('drive'), { startOf: track }),
      removeNode(node),
      duplicateNode(node),
      shiftNode(node, roll(2) ? 1 : -1),
      moveNode(node, { after: other }),
      moveNode(node, { startOf: branch }),
      putAround('split', [node]),
      putAround('group', [node]),
      unwrap(node),
      addBranch(node, newBranch('c')),
      addLaneItem(node, 'bands', roll(4)),
      removeLaneItem(node, 'bands', roll(4)),
      setData(node, 'poses', [roll(5)]),
      rename(node, `n${roll(9)}`),
      addTrack(newTrack('New', newSource('tone'))),
      removeTrack(track),
      addModulator(track, 'lfo'),
      removeModulator(modulator),
      duplicateModulator(modulator, true),
      addLink(modulator, { owner: node, param: 'wet' }, 0.1, 0.9),
      removeLink(link),
      updateLink(link, { amount: roll(5) / 5 }),
      copyToOther(track),
    ]
    return pick(edits) ?? (() => {})
  }
  it(`${runs} times: undone to the start and redone to the end, the documents are the same, and patches tell the engine all of it`, () => {
    for (let seed = 1; seed <= runs; seed++) {
      const roll = dice(seed)
      const history = begin()
      const first = history.project
      let mirror = first
      const hear2 = (patches: Parameters<typeof patched>[1]): void => {
        mirror = patched(mirror, patches)
      }
      const owners: (Gesture | null)[] = [null, null, null]
      for (let k = 0; k < 30; k++) {
        const who = roll(4)
        if (who === 3) hear2(history.edit(`Step ${k}`, randomEdit(history.project, roll)))
        else {
          const gesture = (owners[who] ??= history.gesture(`Gesture of ${who}`))
          hear2(gesture.edit(randomEdit(history.project, roll)))
          if (roll(3) === 0) {
            gesture.end()
            owners[who] = null
          }
        }
        // what would be saved now leads back to the start as well
        if (k % 10 === 7) {
          const saved = new History(history.moment)
          while (saved.undo.length) saved.stepBack()
          expect(saved.project).toEqual(first)
        }
      }
      history.endGestures()
      const last = history.project
      expect(mirror).toEqual(last)
      const documents: Project[] = [last]
      while (history.undo.length) {
        hear2(history.stepBack())
        documents.push(history.project)
      }
      expect(history.project, `seed ${seed}`).toEqual(first)
      expect(mirror).toEqual(first)
      while (history.redo.length) {
        documents.pop()
        history.stepForward()
        expect(history.project).toEqual(documents[documents.length - 1])
      }
      expect(history.project).toEqual(last)
    }
  })
})
