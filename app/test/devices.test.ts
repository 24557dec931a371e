import { describe, expect, it } from 'vitest'
import { type DeviceMessage, FineControls, readMidi, writeMidi } from '../devices/midi-message'
import { PickUp } from '../devices/pick-up'

describe('MIDI messages', () => {
  it.each<DeviceMessage>([
    { kind: 'cc', channel: 3, number: 74, value: 1 }, { kind: 'note', channel: 0, number: 62, value: 100 / 127 }, { kind: 'note', channel: 0, number: 62, value: 0 },
    { kind: 'bend', channel: 1, number: 0, value: 0.5 }, { kind: 'bend', channel: 1, number: 0, value: 0 }, { kind: 'bend', channel: 1, number: 0, value: 1 }, { kind: 'pressure', channel: 9, number: 0, value: 0 },
  ])('are read as they were written: $kind $value', (m) => expect(readMidi(writeMidi(m))).toEqual(m))
  it('a note with velocity 0 ends the note; what steers nothing is left out', () => {
    expect(readMidi(new Uint8Array([0x90, 60, 0]))).toEqual({ kind: 'note', channel: 0, number: 60, value: 0 })
    for (const bytes of [[0xf8], [0xc0, 3], [60, 60], [0xb0, 200, 1], []]) expect(readMidi(new Uint8Array(bytes))).toBeUndefined()
  })
  it('joins the halves of fine controls', () => {
    const fine = new FineControls()
    const cc = (number: number, seven: number) => fine.take({ kind: 'cc', channel: 0, number, value: seven / 127 })
    expect(cc(33, 5)).toBeUndefined()
    expect(cc(1, 64)).toEqual({ number: 1, value: 8192 / 16_383 })
    expect(cc(33, 3)).toEqual({ number: 1, value: 8195 / 16_383 })
    expect(cc(1, 127)?.value).toBeCloseTo(0.992, 3)
    expect(cc(33, 127)?.value).toBe(1)
    expect(cc(74, 1)).toBeUndefined()
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
