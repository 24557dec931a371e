import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { momentOf } from '@oleaje/core/project/history'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { useBench } from '../stores/bench'
import { useDocument } from '../stores/document'

vi.mock('../storage/database', () => ({ saveMoment: vi.fn(() => Promise.resolve()) }))
vi.stubGlobal('navigator', {})

async function bench() {
  setActivePinia(createPinia())
  const project = newProject('Night Ferry')
  const kit = newTrack('Kit', newSource('tone', {}, null, 'src'), 'kit')
  kit.a.nodes = [newEffect('eq', {}, 'e'), newEffect('delay', {}, 'd')]
  project.tracks.unshift(kit, newTrack('Pad', null, 'pad'))
  await useDocument().open(momentOf(project))
  const b = useBench()
  b.selectTrack('kit')
  return b
}
let b: Awaited<ReturnType<typeof bench>>
beforeEach(async () => {
  b = await bench()
})

describe('what is heard for now', () => {
  it('is all there is until something is heard by itself', () => {
    expect(b.monitor).toEqual({ ...openMonitor, probe: { track: 'kit', modulator: null } })
  })
  it('names what is heard alone, and nothing of it lasts once all is heard again', () => {
    b.toggleSoloTrack('kit')
    b.toggleSoloBranch('b1')
    b.hearPart('d', 'wet')
    b.toggleSoloItem('e', 2)
    b.toggleSoloItem('e', 0)
    b.hearDry = true
    b.upTo = 'e'
    expect(b.monitor).toMatchObject({
      soloTracks: ['kit'],
      soloBranches: ['b1'],
      part: { node: 'd', what: 'wet' },
      items: { node: 'e', chosen: [2, 0] },
      dryTrack: 'kit',
      upTo: 'e',
    })
    b.hearAll()
    expect(b.monitor).toEqual({ ...openMonitor, probe: { track: 'kit', modulator: null } })
  })
  it('ends with what it is about: whatever of it is removed, all is heard', () => {
    b.toggleSoloTrack('kit')
    b.hearPart('d', 'wet')
    b.toggleSoloItem('e', 1)
    b.upTo = 'e'
    useDocument().edit('Remove', (p) => {
      p.tracks[0]!.a.nodes = []
    })
    expect(b.monitor).toMatchObject({ soloTracks: ['kit'], part: null, items: null, upTo: null })
    useDocument().edit('Remove', (p) => {
      p.tracks.splice(0, 1)
    })
    expect(b.monitor.soloTracks).toEqual([])
  })
  it('asked for twice, a part goes back to the whole; another part takes its place', () => {
    b.hearPart('d', 'wet')
    b.hearPart('d', 'difference')
    expect(b.part).toEqual({ node: 'd', what: 'difference' })
    b.hearPart('d', 'difference')
    expect(b.part).toBeNull()
    b.toggleSoloItem('e', 1)
    b.toggleSoloItem('e', 1)
    expect(b.soloItems).toBeNull()
    b.toggleSoloItem('e', 1)
    b.toggleSoloItem('d', 3)
    expect(b.soloItems).toEqual({ node: 'd', chosen: [3] })
  })
  it('matches levels only while asked to, as a factor', () => {
    b.matchDb = -6
    expect(b.monitor.match).toEqual({ track: 'kit', gain: expect.closeTo(0.5012, 4) })
    b.matching = false
    expect(b.monitor.match).toBeNull()
  })
  it('ends with the track: another one begins with its own first effect and all of its sound', () => {
    b.hearDry = true
    b.hearPart('d', 'wet')
    b.alone = 'm'
    b.selectTrack('pad')
    expect([b.hearDry, b.part, b.alone, b.selectedId]).toEqual([false, null, null, null])
    expect(b.monitor.probe?.track).toBe('pad')
  })
})

describe('what is shown', () => {
  it('follows the track: its first effect and its first modulator', () => {
    useDocument().edit('Add', addModulator('kit', 'lfo', { id: 'tide' }))
    b.selectTrack('kit')
    expect([b.selectedId, b.traced]).toEqual(['e', 'tide'])
    expect(b.selection).toMatchObject({ kind: 'node', node: { id: 'e' } })
  })
  it('is the first track where the one that was shown is gone', () => {
    b.selectTrack('pad')
    useDocument().edit('Remove', (p) => {
      p.tracks.splice(1, 1)
    })
    expect(b.track?.id).toBe('kit')
  })
  it('chooses several with the second key, and starts with the first item of another effect', () => {
    b.shownItem = 3
    b.marked = ['e.gain']
    b.select('d', true)
    expect([b.selected, b.selectedId, b.shownItem, b.marked]).toEqual([['e', 'd'], 'd', 0, []])
    b.select('d', true)
    expect(b.selected).toEqual(['e'])
    b.shownItem = 2
    b.select('e')
    expect(b.shownItem).toBe(2)
  })
})
