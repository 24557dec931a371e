import { createPinia, setActivePinia } from 'pinia'
import { describe, expect, it, vi } from 'vitest'
import { removeNode } from '@oleaje/core/project/chain-edits'
import { momentOf } from '@oleaje/core/project/history'
import { newEffect, newProject, newTrack } from '@oleaje/core/project/new'
import { TapTempo } from '../services/tap-tempo'
import { DeviceRouter } from '../services/device-router'
import { type DeviceMessage, FineControls, readMidi, writeMidi } from '../devices/midi-message'
import { MidiClock } from '../devices/midi-clock'
import { MidiPort } from '../devices/midi-input'
import { PickUp } from '../devices/pick-up'
import { useStores } from '../stores/index'
import { useDocument } from '../stores/document'

vi.mock('../storage/database', () => ({ saveMoment: vi.fn(() => Promise.resolve()) }))
vi.stubGlobal('navigator', {})

describe('MIDI messages', () => {
  it.each<DeviceMessage>([
    { kind: 'cc', channel: 3, number: 74, value: 1 },
    { kind: 'note', channel: 0, number: 62, value: 100 / 127 },
    { kind: 'note', channel: 0, number: 62, value: 0 },
    { kind: 'bend', channel: 1, number: 0, value: 0.5 },
    { kind: 'bend', channel: 1, number: 0, value: 0 },
    { kind: 'bend', channel: 1, number: 0, value: 1 },
    { kind: 'pressure', channel: 9, number: 0, value: 0 },
  ])('are read as they were written: $kind $value', (m) => expect(readMidi(writeMidi(m))).toEqual(m))
  it('a note with velocity 0 ends the note; what steers nothing is left out', () => {
    expect(readMidi(new Uint8Array([0x90, 60, 0]))).toEqual({
      kind: 'note',
      channel: 0,
      number: 60,
      value: 0,
    })
    for (const bytes of [[0xf8], [0xc0, 3], [60, 60], [0xb0, 200, 1], []])
      expect(readMidi(new Uint8Array(bytes))).toBeUndefined()
  })
  it('joins the halves of fine controls', () => {
    const fine = new FineControls()
    const cc = (number: number, seven: number) =>
      fine.take({ kind: 'cc', channel: 0, number, value: seven / 127 })
    expect(cc(33, 5)).toBeUndefined()
    expect(cc(1, 64)).toEqual({ number: 1, value: 8192 / 16_383 })
    expect(cc(33, 3)).toEqual({ number: 1, value: 8195 / 16_383 })
    expect(cc(1, 127)?.value).toBeCloseTo(0.992, 3)
    expect(cc(33, 127)?.value).toBe(1)
    expect(cc(74, 1)).toBeUndefined()
  })
})

describe('a port', () => {
  const signals = () => ({
    clock: vi.fn(),
    start: vi.fn(),
    goOn: vi.fn(),
    stop: vi.fn(),
    program: vi.fn(),
    gone: vi.fn(),
  })
  it('lets go of every note that it holds when it is taken away, and at “all notes off”', () => {
    const heard: DeviceMessage[] = []
    const port = new MidiPort((m) => heard.push(m), signals())
    for (const bytes of [
      [0x90, 60, 100],
      [0x92, 64, 100],
      [0x90, 67, 100],
      [0x80, 60, 0],
    ])
      port.hear(new Uint8Array(bytes), 0)
    heard.length = 0
    port.letGo()
    expect(heard).toEqual([
      { kind: 'note', channel: 2, number: 64, value: 0 },
      { kind: 'note', channel: 0, number: 67, value: 0 },
    ])
    port.letGo()
    expect(heard).toHaveLength(2)
    port.hear(new Uint8Array([0x90, 50, 1]), 0)
    port.hear(new Uint8Array([0xb0, 123, 0]), 0)
    expect(heard.slice(2)).toEqual([
      { kind: 'note', channel: 0, number: 50, value: 1 / 127 },
      { kind: 'note', channel: 0, number: 50, value: 0 },
    ])
  })
  it('tells clock, start, continue, stop and programs apart from what is played', () => {
    const told = signals()
    const port = new MidiPort(() => {
      throw new Error('This is no note.')
    }, told)
    for (const bytes of [[0xf8], [0xfa], [0xfb], [0xfc], [0xc3, 4]]) port.hear(new Uint8Array(bytes), 7)
    expect([
      told.clock.mock.calls,
      told.start.mock.calls.length,
      told.goOn.mock.calls.length,
      told.stop.mock.calls.length,
      told.program.mock.calls,
    ]).toEqual([[[7]], 1, 1, 1, [[4]]])
  })
  it('a clock gives its tempo within a tenth, though its pulses come unevenly', () => {
    const tempos: number[] = []
    const clock = new MidiClock((bpm) => tempos.push(bpm))
    for (let i = 0; i < 300; i++) clock.pulse((i * 60_000) / 107 / 24 + ((i * 7) % 5) * 0.4)
    expect(tempos.length).toBeGreaterThan(0)
    expect(Math.abs(tempos.at(-1)! - 107)).toBeLessThan(0.2)
    const before = tempos.length
    for (let i = 0; i < 300; i++) clock.pulse(20_000 + (i * 60_000) / 93 / 24)
    expect(Math.abs(tempos.at(-1)! - 93)).toBeLessThan(0.2)
    expect(tempos.length).toBeGreaterThan(before)
  })
})

describe('tapping', () => {
  it('sets the tempo from the third tap on, as one step', async () => {
    vi.useFakeTimers()
    setActivePinia(createPinia())
    const doc = useDocument()
    await doc.open(momentOf(newProject('Night Ferry')))
    const tempo = new TapTempo(doc)
    for (let i = 0; i < 6; i++) tempo.tap(1000 + (i * 60_000) / 93)
    expect(doc.project?.tempo).toBeCloseTo(93, 1)
    await vi.advanceTimersByTimeAsync(3000)
    expect(doc.undoSteps.map((s) => s.label)).toEqual(['Tap tempo'])
    vi.useRealTimers()
  })
})

describe('notes of a device', () => {
  it('a flood of ten thousand a second arrives whole, and every end reaches its note', async () => {
    setActivePinia(createPinia())
    const doc = useDocument()
    const project = newProject('Night Ferry')
    project.tracks.unshift(newTrack('Bass', null, 'bass'), newTrack('Pad', null, 'pad'))
    await doc.open(momentOf(project))
    const stores = useStores()
    stores.selection.selectTrack('bass')
    const open = new Map<string, number>()
    let count = 0
    const router = new DeviceRouter(doc, stores, {
      note: (track: string, pitch: number, velocity: number) => {
        count++
        const key = `${track}/${pitch}`
        open.set(key, velocity > 0 ? 1 : 0)
      },
      shapeNotes: () => {},
    } as never)
    const port = new MidiPort((m) => router.take(m), {
      clock: () => {},
      start: () => {},
      goOn: () => {},
      stop: () => {},
      program: () => {},
      gone: () => {},
    })
    const start = performance.now()
    for (let i = 0; i < 60_000; i++) {
      if (i % 997 === 0) stores.selection.selectTrack(i % 2 ? 'bass' : 'pad')
      port.hear(new Uint8Array([i % 2 ? 0x80 : 0x90, 36 + ((i >> 1) % 40), 90]), 0)
    }
    const took = performance.now() - start
    port.letGo()
    expect(count).toBeGreaterThanOrEqual(60_000)
    expect([...open.values()].filter((v) => v === 1)).toEqual([])
    // six seconds' worth of messages take a small part of that
    expect(took).toBeLessThan(3000)
  })
  it('end on the track that they began on, whatever is selected by then', async () => {
    setActivePinia(createPinia())
    const doc = useDocument()
    const stores = useStores()
    const project = newProject('Night Ferry')
    project.tracks.unshift(newTrack('Bass', null, 'bass'), newTrack('Pad', null, 'pad'))
    await doc.open(momentOf(project))
    stores.selection.selectTrack('bass')
    const played: [string, number, number][] = []
    const router = new DeviceRouter(doc, stores, {
      note: (track: string, pitch: number, velocity: number) => played.push([track, pitch, velocity]),
    } as never)
    const note = (number: number, value: number): void =>
      router.take({ kind: 'note', channel: 0, number, value })
    note(40, 0.7)
    stores.selection.selectTrack('pad')
    note(52, 0.6)
    note(40, 0)
    note(52, 0)
    // struck again elsewhere before it was let go: it ends where it sounds first
    note(61, 0.5)
    stores.selection.selectTrack('bass')
    note(61, 0.5)
    note(61, 0)
    expect(played).toEqual([
      ['bass', 40, 0.7],
      ['pad', 52, 0.6],
      ['bass', 40, 0],
      ['pad', 52, 0],
      ['pad', 61, 0.5],
      ['pad', 61, 0],
      ['bass', 61, 0.5],
      ['bass', 61, 0],
    ])
    // armed for notes, a track is played whatever is selected
    stores.devices.notesTo = 'pad'
    note(47, 0.4)
    stores.devices.notesTo = null
    note(47, 0)
    expect(played.slice(-2)).toEqual([
      ['pad', 47, 0.4],
      ['pad', 47, 0],
    ])
  })
  it('and controls keep their ride apart from what is removed meanwhile', async () => {
    vi.useFakeTimers()
    setActivePinia(createPinia())
    const doc = useDocument()
    const project = newProject('Night Ferry')
    const track = newTrack('Bass', null, 'bass')
    track.a.nodes = [newEffect('gain', { level: -1 }, 'g'), newEffect('filter', {}, 'f')]
    project.tracks.unshift(track)
    await doc.open(
      momentOf({
        ...project,
        controls: [
          {
            id: 'c',
            message: { kind: 'cc', channel: 0, number: 7 },
            target: { owner: 'g', param: 'level' },
            pickUp: false,
          },
        ],
      }),
    )
    const before = doc.project
    const router = new DeviceRouter(doc, useStores(), {} as never)
    router.take({ kind: 'cc', channel: 0, number: 7, value: 0.31 })
    doc.edit('Remove Filter', removeNode('f'))
    router.take({ kind: 'cc', channel: 0, number: 7, value: 0.37 })
    await vi.advanceTimersByTimeAsync(500)
    expect(doc.undoSteps.map((s) => s.label)).toEqual(['Remove Filter', 'Ride level'])
    doc.undo()
    doc.undo()
    expect(doc.project).toEqual(before)
    vi.useRealTimers()
  })
})

describe('soft pick-up', () => {
  it('waits until the control passes the value, then follows without a jump', () => {
    const p = new PickUp()
    let place = 0.5
    const moves = [0, 0.1, 0.3, 0.46, 0.55, 0.6, 0.8].map((c) => {
      const to = p.take(c, place)
      if (to !== null) place = to
      return to
    })
    expect(moves).toEqual([null, null, null, null, 0.55, 0.6, 0.8])
    // moved elsewhere by the mouse: it waits again
    place = 0.2
    expect(p.take(0.85, place)).toBeNull()
    expect(p.take(0.3, place)).toBeNull()
    expect(p.take(0.19, place)).toBe(0.19)
  })
})
