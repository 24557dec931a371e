import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { DrawnShape, readPoints } from '@oleaje/core/dsp/drawn-shape'
import { momentOf } from '@oleaje/core/project/history'
import { newEffect, newProject, newSource, newTrack } from '@oleaje/core/project/new'
import { findTarget } from '@oleaje/core/project/targets'
import { setParam } from '@oleaje/core/project/value-edits'
import { fromNormalized } from '@oleaje/core/units/scale'
import { AutomationRecorder } from '../services/automation-recorder'
import { type Stores, useStores } from '../stores/index'
import { useDocument } from '../stores/document'

vi.mock('../storage/database', () => ({ saveMoment: vi.fn(() => Promise.resolve()) }))
vi.stubGlobal('navigator', {})

let beat = 0
let recorder: AutomationRecorder
let doc: ReturnType<typeof useDocument>
let stores: Stores

afterEach(() => vi.useRealTimers())
beforeEach(async () => {
  vi.useFakeTimers()
  setActivePinia(createPinia())
  doc = useDocument()
  stores = useStores()
  const project = newProject('Night Ferry')
  const kit = newTrack('Kit', newSource('tone', {}, null, 'src'), 'kit')
  kit.a.nodes = [newEffect('filter', {}, 'f')]
  project.tracks.unshift(kit)
  await doc.open(momentOf({ ...project, loop: { on: true, start: 0, end: 8 } }))
  stores.selection.selectTrack('kit')
  stores.monitoring.playing = true
  recorder = new AutomationRecorder(doc, stores, { telemetry: { fixed: () => beat } } as never)
})

/** Moves the cutoff as a function of the beat gives its place, while the song goes through some beats. */
function ride(place: (beat: number) => number, from = 0, to = 8, step = 1 / 16): void {
  const { spec } = findTarget(doc.project!, { owner: 'f', param: 'cutoff' })!
  for (beat = from; beat < to; beat += step) {
    doc.edit('Move', setParam('f', 'cutoff', fromNormalized(spec, place(beat))))
    vi.advanceTimersByTime(16)
  }
}
const curve = () => doc.project!.tracks[0]!.modulators.find((m) => m.type === 'curve')
const wave = (at: number): number => 0.5 + 0.4 * Math.sin((at * Math.PI) / 4)

describe('a ride', () => {
  it('becomes a curve as long as the loop that goes where the gauge went, thinned', () => {
    recorder.toggle('f.cutoff')
    expect(stores.recording.recordingAutomation).toBe('f.cutoff')
    ride(wave)
    recorder.toggle(null)
    expect(stores.recording.recordingAutomation).toBeNull()
    const points = readPoints(curve()?.data?.points, 8)
    expect(curve()?.params.length).toBe(8)
    expect(points.length).toBeLessThan(60)
    const shape = new DrawnShape(points)
    for (let at = 0.25; at < 7.75; at += 0.125) expect(Math.abs(shape.at(at) - wave(at))).toBeLessThan(0.03)
    expect(doc.project!.links).toMatchObject([
      { target: { owner: 'f', param: 'cutoff' }, mode: 'fixed', on: true },
    ])
    expect(stores.selection.traced).toBe(curve()?.id)
  })
  it('keeps its end as it was played', () => {
    recorder.begin('f.cutoff')
    ride((at) => 0.1 + at / 10)
    recorder.end()
    const shape = new DrawnShape(readPoints(curve()?.data?.points, 8))
    for (const at of [0.5, 3.3, 7, 7.5, 7.9]) expect(shape.at(at)).toBeCloseTo(0.1 + at / 10, 1.7)
    expect(shape.at(8)).toBeGreaterThan(0.88)
  })
  it('ends by itself at the end of the loop, and leaves its beginning as it was played', () => {
    recorder.begin('f.cutoff')
    ride(wave)
    ride(() => 0.1, 0, 3)
    expect(stores.recording.recordingAutomation).toBeNull()
    const shape = new DrawnShape(readPoints(curve()?.data?.points, 8))
    for (const at of [0.3, 1.1, 2.7, 5.3, 7.7]) expect(shape.at(at)).toBeCloseTo(wave(at), 1.5)
  })
  it('ends there also where it began in the middle, and where the page looks seldom', () => {
    recorder.begin('f.cutoff')
    // looks a quarter of a beat apart, as on a busy machine
    ride((at) => 0.2 + at / 20, 5.9, 8, 0.23)
    ride(() => 0.9, 0.13, 1.4, 0.23)
    expect(stores.recording.recordingAutomation).toBeNull()
    const shape = new DrawnShape(readPoints(curve()?.data?.points, 8))
    for (const at of [6.1, 7, 7.6]) expect(shape.at(at)).toBeCloseTo(0.2 + at / 20, 1.5)
    expect(shape.at(0.8)).toBeLessThan(0.6)
  })
  it('waits over the end of the loop until the gauge is moved', () => {
    recorder.begin('f.cutoff')
    ride(() => 0.5, 5, 8)
    ride(() => 0.5, 0, 8)
    expect(stores.recording.recordingAutomation).toBe('f.cutoff')
    ride(wave, 0.25, 8)
    recorder.end()
    const shape = new DrawnShape(readPoints(curve()?.data?.points, 8))
    for (const at of [1.1, 3.3, 5.3, 7.7]) expect(shape.at(at)).toBeCloseTo(wave(at), 1.5)
  })
  it('goes back within a song that does not loop, and leaves what lies around', () => {
    doc.edit('No loop', (p) => {
      p.loop = { on: false, start: 2, end: 6 }
    })
    recorder.begin('f.cutoff')
    ride(wave)
    ride(() => 0.3, 5.8, 5.95)
    ride(() => 0.3, 2.02, 2.2)
    recorder.end()
    const shape = new DrawnShape(readPoints(curve()?.data?.points, 8))
    for (const at of [0.7, 1.6, 6.4, 7.3]) expect(shape.at(at)).toBeCloseTo(wave(at), 1.5)
  })
  it('does not touch what lies between when the song is sent elsewhere', () => {
    recorder.begin('f.cutoff')
    ride(wave)
    ride(() => 0.3, 0, 1)
    ride(() => 0.3, 6, 7)
    recorder.end()
    const shape = new DrawnShape(readPoints(curve()?.data?.points, 8))
    for (const at of [2, 3.3, 5]) expect(shape.at(at)).toBeCloseTo(wave(at), 1.5)
  })
  it('is undone in one step', () => {
    recorder.begin('f.cutoff')
    ride(wave)
    recorder.end()
    expect(doc.undoLabel).toBe('Record the ride of Filter cutoff')
    doc.undo()
    expect([curve(), doc.project!.links.length]).toEqual([undefined, 0])
  })
  it('in which nothing moved leaves nothing, and leaves an older ride on', () => {
    recorder.begin('f.cutoff')
    ride(() => 0.5)
    recorder.end()
    expect(curve()).toBeUndefined()
    recorder.begin('f.cutoff')
    ride(wave)
    recorder.end()
    const kept = curve()?.data
    recorder.begin('f.cutoff')
    expect(doc.project!.links[0]?.on).toBe(false)
    beat = 1
    vi.advanceTimersByTime(16)
    recorder.end()
    expect(doc.project!.links[0]?.on).toBe(true)
    expect(curve()?.data).toEqual(kept)
  })
  it('made anew takes the place of the older one, without a second curve or link', () => {
    for (const height of [0.2, 0.4]) {
      recorder.begin('f.cutoff')
      ride((at) => 0.5 + height * Math.sin((at * Math.PI) / 4))
      recorder.end()
    }
    expect(doc.project!.tracks[0]!.modulators).toHaveLength(1)
    expect(doc.project!.links).toHaveLength(1)
    expect(new DrawnShape(readPoints(curve()?.data?.points, 8)).at(2)).toBeCloseTo(0.9, 1)
  })
  it('waits while the song stands still, and of what is gone makes nothing', () => {
    stores.monitoring.playing = false
    recorder.begin('f.cutoff')
    ride(wave)
    stores.monitoring.playing = true
    recorder.end()
    expect(curve()).toBeUndefined()
    recorder.begin('f.nothing')
    expect(stores.recording.recordingAutomation).toBeNull()
  })
})
