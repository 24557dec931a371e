import { beforeEach, describe, expect, it, vi } from 'vitest'
import { SNAPSHOTS } from '@oleaje/core/project/snapshots'
import type { DeviceSignals } from '../devices/midi-input'
import { MidiInputs } from '../services/midi-inputs'

let signals: DeviceSignals
vi.mock('../devices/midi-input', () => ({
  openMidi: (_: unknown, given: DeviceSignals) => {
    signals = given
    return Promise.resolve({ names: () => ['Mast'] })
  },
}))

const doc = { project: { loop: { on: true, start: 3, end: 8 } }, edit: vi.fn(), trouble: '' }
const preferences = { followsClock: false }
const router = { take: vi.fn() }
const transport = { play: vi.fn(), stop: vi.fn() }
const snapshots = { recall: vi.fn() }
const host = { telemetry: { fixed: () => 5.37 } }

beforeEach(async () => {
  vi.clearAllMocks()
  preferences.followsClock = false
  const inputs = new MidiInputs(
    doc as never,
    { preferences } as never,
    host as never,
    { router, transport, snapshots } as never,
  )
  expect(await inputs.open()).toEqual(['Mast'])
})

describe('MIDI inputs', () => {
  it('recall each snapshot by its program number, and none beyond the last', () => {
    for (let program = 0; program <= SNAPSHOTS; program++) signals.program(program)
    expect(snapshots.recall.mock.calls.map(([n]) => n as number)).toEqual(
      Array.from({ length: SNAPSHOTS }, (_, i) => i + 1),
    )
  })
  it('start and stop the song only while the clock is followed: from the loop, or from where it stands', () => {
    signals.start()
    signals.stop()
    expect([transport.play.mock.calls.length, transport.stop.mock.calls.length]).toEqual([0, 0])
    preferences.followsClock = true
    signals.start()
    signals.goOn()
    signals.stop()
    expect(transport.play.mock.calls).toEqual([[3], [5.37]])
    expect(transport.stop).toHaveBeenCalledOnce()
  })
  it('set the tempo of a clock that is followed', () => {
    preferences.followsClock = true
    // 24 pulses a quarter note at 107 bpm
    for (let i = 0; i < 60; i++) signals.clock((i * 60_000) / 107 / 24)
    expect(doc.edit).toHaveBeenCalledWith('Follow MIDI clock', expect.anything(), true)
  })
  it('say which one was disconnected', () => {
    signals.gone('Mast')
    expect(doc.trouble).toContain('Mast was disconnected')
  })
})
