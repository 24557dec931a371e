import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { openMonitor } from '@oleaje/core/engine/monitor'
import { addModulator } from '@oleaje/core/project/motion-edits'
import { momentOf } from '@oleaje/core/project/history'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { useStores } from '../stores/index'
import { useDocument } from '../stores/document'

vi.mock('../storage/database', () => ({ saveMoment: vi.fn(() => Promise.resolve()) }))
vi.stubGlobal('navigator', {})

async function stores() {
  setActivePinia(createPinia())
  const project = newProject('Night Ferry')
  const kit = newTrack('Kit', newSource('tone', {}, null, 'src'), 'kit')
  kit.a.nodes = [newEffect('eq', {}, 'e'), newEffect('delay', {}, 'd')]
  project.tracks.unshift(kit, newTrack('Pad', null, 'pad'))
  await useDocument().open(momentOf(project))
  const b = useStores()
  b.selection.selectTrack('kit')
  return b
}
let b: Awaited<ReturnType<typeof stores>>
beforeEach(async () => {
  b = await stores()
})

describe('what is heard for now', () => {
  it('a Play that waits for the first project still waits once it is open', () => {
    b.monitoring.starting = true
    b.monitoring.playing = true
    b.monitoring.clear()
    expect([b.monitoring.starting, b.monitoring.playing]).toEqual([true, false])
  })

  it('is all there is until something is heard by itself', () => {
    expect(b.monitoring.monitor).toEqual({ ...openMonitor, probe: { track: 'kit', modulator: null } })
  })
  it('names what is heard alone, and nothing of it lasts once all is heard again', () => {
    b.monitoring.toggleSoloTrack('kit')
    b.monitoring.toggleSoloBranch('b1')
    b.monitoring.hearPart('d', 'wet')
    b.monitoring.toggleSoloItem('e', 2)
    b.monitoring.toggleSoloItem('e', 0)
    b.monitoring.hearDry = true
    b.monitoring.upTo = 'e'
    expect(b.monitoring.monitor).toMatchObject({
      soloTracks: ['kit'],
      soloBranches: ['b1'],
      part: { node: 'd', what: 'wet' },
      items: { node: 'e', chosen: [2, 0] },
      dryTrack: 'kit',
      upTo: 'e',
    })
    b.monitoring.hearAll()
    expect(b.monitoring.monitor).toEqual({ ...openMonitor, probe: { track: 'kit', modulator: null } })
  })
  it('ends with what it is about: whatever of it is removed, all is heard', () => {
    b.monitoring.toggleSoloTrack('kit')
    b.monitoring.hearPart('d', 'wet')
    b.monitoring.toggleSoloItem('e', 1)
    b.monitoring.upTo = 'e'
    useDocument().edit('Remove', (p) => {
      p.tracks[0]!.a.nodes = []
    })
    expect(b.monitoring.monitor).toMatchObject({ soloTracks: ['kit'], part: null, items: null, upTo: null })
    useDocument().edit('Remove', (p) => {
      p.tracks.splice(0, 1)
    })
    expect(b.monitoring.monitor.soloTracks).toEqual([])
  })
  it('asked for twice, a part goes back to the whole; another part takes its place', () => {
    b.monitoring.hearPart('d', 'wet')
    b.monitoring.hearPart('d', 'difference')
    expect(b.monitoring.part).toEqual({ node: 'd', what: 'difference' })
    b.monitoring.hearPart('d', 'difference')
    expect(b.monitoring.part).toBeNull()
    b.monitoring.toggleSoloItem('e', 1)
    b.monitoring.toggleSoloItem('e', 1)
    expect(b.monitoring.soloItems).toBeNull()
    b.monitoring.toggleSoloItem('e', 1)
    b.monitoring.toggleSoloItem('d', 3)
    expect(b.monitoring.soloItems).toEqual({ node: 'd', chosen: [3] })
  })
  it('matches levels only while asked to, as a factor', () => {
    b.monitoring.matchDb = -6
    expect(b.monitoring.monitor.match).toEqual({ track: 'kit', gain: expect.closeTo(0.5012, 4) })
    b.monitoring.matching = false
    expect(b.monitoring.monitor.match).toBeNull()
  })
  it('ends with the track: another one begins with its own first effect and all of its sound', () => {
    b.monitoring.hearDry = true
    b.monitoring.hearPart('d', 'wet')
    b.monitoring.alone = 'm'
    b.selection.selectTrack('pad')
    expect([b.monitoring.hearDry, b.monitoring.part, b.monitoring.alone, b.selection.selectedId]).toEqual([
      false,
      null,
      null,
      null,
    ])
    expect(b.monitoring.monitor.probe?.track).toBe('pad')
  })
})

describe('what is shown', () => {
  it('follows the track: its first effect and its first modulator', () => {
    useDocument().edit('Add', addModulator('kit', 'lfo', { id: 'tide' }))
    b.selection.selectTrack('kit')
    expect([b.selection.selectedId, b.selection.traced]).toEqual(['e', 'tide'])
    expect(b.selection.owner).toMatchObject({ kind: 'node', node: { id: 'e' } })
  })
  it('is the first track where the one that was shown is gone', () => {
    b.selection.selectTrack('pad')
    useDocument().edit('Remove', (p) => {
      p.tracks.splice(1, 1)
    })
    expect(b.selection.track?.id).toBe('kit')
  })
  it('chooses several with the second key, and starts with the first item of another effect', () => {
    b.selection.shownItem = 3
    b.selection.marked = ['e.gain']
    b.selection.select('d', true)
    expect([b.selection.selected, b.selection.selectedId, b.selection.shownItem, b.selection.marked]).toEqual(
      [['e', 'd'], 'd', 0, []],
    )
    b.selection.select('d', true)
    expect(b.selection.selected).toEqual(['e'])
    b.selection.shownItem = 2
    b.selection.select('e')
    expect(b.selection.shownItem).toBe(2)
  })
})
