import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { momentOf } from '@oleaje/core/project/history'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { setParam } from '@oleaje/core/project/value-edits'
import { Snapshots } from '../services/snapshots'
import { type Stores, useStores } from '../stores/index'
import { useDocument } from '../stores/document'

vi.mock('../storage/database', () => ({ saveMoment: vi.fn(() => Promise.resolve()) }))
vi.stubGlobal('navigator', {})

let doc: ReturnType<typeof useDocument>
let stores: Stores
let snapshots: Snapshots
afterEach(() => vi.useRealTimers())
beforeEach(async () => {
  vi.useFakeTimers()
  setActivePinia(createPinia())
  doc = useDocument()
  stores = useStores()
  const kit = newTrack('Kit', newSource('tone', {}, null, 'src'), 'kit')
  kit.a.nodes = [newEffect('filter', { cutoff: 400 }, 'f')]
  const project = newProject('Night Ferry')
  project.tracks.unshift(kit)
  await doc.open(momentOf(project))
  stores.selection.selectTrack('kit')
  snapshots = new Snapshots(doc, stores)
  snapshots.take(2)
  doc.edit('Set', setParam('f', 'cutoff', 6400))
})
const cutoff = (): number => doc.project!.tracks[0]!.a.nodes[0]!.params.cutoff!

describe('snapshots of a track', () => {
  it('are recalled at once where there is no glide, in one step', () => {
    stores.screen.snapshotGlide = 0
    snapshots.recall(2)
    expect([cutoff(), doc.undoLabel]).toEqual([400, 'Recall snapshot 2'])
    doc.undo()
    expect(cutoff()).toBe(6400)
  })
  it('are glided to, in one step as well', () => {
    stores.screen.snapshotGlide = 1
    snapshots.recall(2)
    vi.advanceTimersByTime(512)
    expect(cutoff()).toBeGreaterThan(1400)
    expect(cutoff()).toBeLessThan(1800)
    vi.advanceTimersByTime(600)
    expect(cutoff()).toBe(400)
    doc.undo()
    expect([cutoff(), doc.undoLabel]).toEqual([6400, 'Set'])
  })
  it('of which the next one begins where the last has come to', () => {
    stores.screen.snapshotGlide = 1
    snapshots.take(3)
    snapshots.recall(2)
    vi.advanceTimersByTime(512)
    const half = cutoff()
    snapshots.recall(3)
    expect(cutoff()).toBeCloseTo(half, 6)
    vi.advanceTimersByTime(1100)
    expect(cutoff()).toBe(6400)
  })
  it('stop where something is undone meanwhile, and do nothing in an empty place', () => {
    stores.screen.snapshotGlide = 1
    snapshots.recall(2)
    vi.advanceTimersByTime(300)
    doc.undo()
    vi.advanceTimersByTime(2000)
    expect(cutoff()).toBe(6400)
    snapshots.recall(7)
    expect([cutoff(), doc.undoLabel]).toEqual([6400, 'Set'])
  })
})
