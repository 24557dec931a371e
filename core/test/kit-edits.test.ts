import { describe, expect, it } from 'vitest'
import { addAudioTrack, addNode, addTrack, removeNode, removeTrack } from '@oleaje/core/project/chain-edits'
import {
  addPad,
  kitWith,
  ownBranch,
  padSplitOf,
  removePad,
  setBranchPads,
  setPad,
} from '@oleaje/core/project/kit-edits'
import { addLink, addModulator } from '@oleaje/core/project/motion-edits'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { padsOf } from '@oleaje/core/project/nodes/split'
import { checkProject } from '@oleaje/core/project/read'
import type { Project } from '@oleaje/core/project/schema'
import { readPads } from '@oleaje/core/sources/kit'
import { setEffectSound } from '@oleaje/core/project/value-edits'
import { edited } from './project-rig'

const ref = { name: 'x', frames: 100, channels: 1, sampleRate: 48_000 }
function kit(): Project {
  const project: Project = { ...newProject('kit'), audio: { low: ref, snare: ref, hat: ref } }
  project.tracks.unshift(
    newTrack(
      'Deck kit',
      kitWith(
        newSource('kit', {}, null, 'src'),
        ['low', 'snare', 'hat'].map((audio) => ({ name: audio, audio })),
      ),
      'kit',
    ),
  )
  return project
}
const notes = (p: Project): number[] => p.tracks[0]!.source!.lanes!.pads!.map((i) => i.note!)
const names = (p: Project): string[] => readPads(p.tracks[0]!.source!.data).map((x) => x.name)

describe('a kit', () => {
  it('has pads on free notes, takes sounds along, and can be opened again', () => {
    const p = edited(
      kit(),
      addPad('src', { name: 'bell', audio: 'bell' }, ref),
      setPad('src', 0, { name: 'deep' }),
    )
    expect([names(p), notes(p)]).toEqual([
      ['deep', 'snare', 'hat', 'bell'],
      [36, 37, 38, 39],
    ])
    expect(p.audio.bell).toEqual(ref)
    expect(checkProject(JSON.parse(JSON.stringify(p))).tracks[0]!.source!.lanes!.pads).toHaveLength(4)
    const missing = JSON.parse(JSON.stringify(p)) as typeof p
    delete (missing.audio as Record<string, unknown>).bell
    expect(() => checkProject(missing)).toThrow(/does not list/)
    let full = p
    for (let i = 0; i < 20; i++) full = edited(full, addPad('src', { name: 'more', audio: null }))
    expect(names(full)).toHaveLength(16)
  })
  it('loses a pad with what moves it; links and branches of those behind move up', () => {
    const p = edited(
      kit(),
      addModulator('kit', 'lfo', { id: 'l' }),
      addLink('l', { owner: 'src', lane: 'pads', index: 1, param: 'tune' }, 0, 1),
      addLink('l', { owner: 'src', lane: 'pads', index: 2, param: 'tune' }, 0, 1),
      ownBranch('kit', 2, 'hat', 'hat-branch'),
    )
    const less = edited(p, removePad('src', 1))
    expect([names(less), notes(less)]).toEqual([
      ['low', 'hat'],
      [36, 38],
    ])
    expect(less.links.map((l) => l.target.index)).toEqual([1])
    expect(padSplitOf(less.tracks[0]!)!.branches[0]!.pads).toEqual([1])
    expect(names(edited(less, removePad('src', 0), removePad('src', 0)))).toEqual(['hat'])
  })
  it('a pad gets a branch of its own, in front of that of all others, and leaves the one it had', () => {
    const p = edited(kit(), ownBranch('kit', 1, 'snare', 'a'), ownBranch('kit', 2, 'hat', 'b'))
    const split = padSplitOf(p.tracks[0]!)!
    expect(split.branches.map((b) => b.name)).toEqual(['snare', 'hat', 'all others'])
    expect([0, 1, 2].map((b) => padsOf(split, b, 3))).toEqual([[1], [2], [0]])
    const moved = padSplitOf(edited(p, setBranchPads('a', [1, 2])).tracks[0]!)!
    expect([0, 1, 2].map((b) => padsOf(moved, b, 3))).toEqual([[1, 2], [], [0]])
  })
})

describe('sounds of a project', () => {
  it('leave the list with the effect that had them, and when it is given another', () => {
    const room = edited(
      kit(),
      addNode(newEffect('convolver', {}, 'c'), { startOf: 'kit' }),
      setEffectSound('c', 'hall', ref),
    )
    expect(Object.keys(room.audio)).toEqual(['low', 'snare', 'hat', 'hall'])
    expect(Object.keys(edited(room, setEffectSound('c', 'stairs', ref)).audio)).toEqual([
      'low',
      'snare',
      'hat',
      'stairs',
    ])
    expect(edited(room, setEffectSound('c', null)).audio).toEqual(kit().audio)
    expect(edited(room, removeNode('c')).audio).toEqual(kit().audio)
  })
  it('are listed as long as something plays them: a thousand brought in and taken out leave it as it was', () => {
    const before = kit()
    let p = before
    for (let i = 0; i < 1000; i++) {
      p = edited(p, addAudioTrack('x', newSource('loop', {}, `s${i}`), `s${i}`, ref, `t${i}`))
      p = edited(p, removeTrack(`t${i}`))
    }
    expect(p).toEqual(before)
    // what a take, the other state of a chain or a pad plays stays
    const kept = edited(
      p,
      (q) => {
        q.audio.take = q.audio.room = ref
        q.tracks[0]!.takes = [{ id: 'a', name: 'a', at: 0, dry: 'take', wet: 'take' }]
        q.tracks[0]!.b = { nodes: [{ ...newEffect('convolver'), data: { audio: 'room' } }] }
      },
      addTrack(newTrack('y', null, 'y')),
      removeTrack('y'),
    )
    expect(Object.keys(kept.audio).sort()).toEqual(['hat', 'low', 'room', 'snare', 'take'])
    expect(Object.keys(edited(kept, removePad('src', 1)).audio).sort()).toEqual([
      'hat',
      'low',
      'room',
      'take',
    ])
  })
})
