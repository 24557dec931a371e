import { describe, expect, it, vi } from 'vitest'
import { apply, type Edit } from '@oleaje/core/project/edit'
import { newProject } from '@oleaje/core/project/new'
import { readPads } from '@oleaje/core/sources/kit'
import type { Sound } from '../contract/messages'
import { Library } from '../services/library'
import type { ShippedSound } from '../storage/shipped'
import { inEvery } from './in-every'

vi.mock('../storage/database', () => ({}))
vi.mock('../storage/project-lock', () => ({ ProjectLock: {} }))
vi.mock('../stores/preference', () => ({
  preference: (_: string, value: unknown) => ({ value }),
  tabPreference: (_: string, value: unknown) => ({ value }),
}))

const shipped = (name: string): ShippedSound => ({
  file: name,
  title: `Stroke, ${name}`,
  hash: name,
  frames: 9,
  channels: 1,
})
const sound = (hash: string): Sound => ({ hash, sampleRate: 48_000, channels: [new Float32Array(9)] })

/** A library in an empty project whose shipped sounds come when they are let go. */
function rig(takeAs: 'loop' | 'kit') {
  const doc = {
    project: newProject('Night Ferry'),
    trouble: '',
    edit: (_: string, edit: Edit) => {
      doc.project = apply(doc.project, edit).next
    },
  }
  const bench = { takeAs, replacing: null as string | null, selectTrack: () => {} }
  const coming = new Map<string, { come: (s: Sound) => void; fail: (e: Error) => void }>()
  const takeShipped = (hash: string): Promise<Sound> =>
    new Promise((come, fail) => coming.set(hash, { come, fail }))
  const heavy = { call: { findTempo: () => Promise.resolve(undefined) } }
  const library = new Library(
    doc as never,
    inEvery(bench) as never,
    {} as never,
    heavy as never,
    { takeShipped } as never,
    {} as never,
    {} as never,
  )
  return {
    doc,
    library,
    come: (hash: string) => coming.get(hash)?.come(sound(hash)),
    fail: (hash: string) => coming.get(hash)?.fail(new Error('gone')),
  }
}

describe('sounds that are chosen one right after another', () => {
  it('become pads in the order of the choices, whichever comes first', async () => {
    const { doc, library, come } = rig('kit')
    const added = ['kick', 'snare', 'hat'].map((name) => library.addShipped(shipped(name)))
    for (const name of ['hat', 'snare', 'kick']) come(name)
    await Promise.all(added)
    expect(readPads(doc.project.tracks[0]?.source?.data).map((p) => p.name)).toEqual(['kick', 'snare', 'hat'])
  })

  it('do not wait for one that cannot be had, which is said', async () => {
    const { doc, library, come, fail } = rig('loop')
    const [first, second] = ['kick', 'snare'].map((name) => library.addShipped(shipped(name)))
    come('snare')
    fail('kick')
    await expect(first).rejects.toThrow('gone')
    await second
    expect(doc.project.tracks.filter((t) => t.kind === 'track').map((t) => t.name)).toEqual(['Stroke, snare'])
  })

  it('do not land in another project that was opened meanwhile', async () => {
    const { doc, library, come } = rig('loop')
    const added = library.addShipped(shipped('kick'))
    doc.project = newProject('Crossing')
    come('kick')
    await expect(added).rejects.toThrow('Another project was opened meanwhile.')
    expect(doc.project.tracks.filter((t) => t.kind === 'track')).toEqual([])
  })
})
