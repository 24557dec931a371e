import { describe, expect, it } from 'vitest'
import { MidiFileError, readMidiFile, writeMidiFile } from '@oleaje/core/formats/midi'
import type { NoteLine } from '@oleaje/core/project/schema'
import { parseMidi, writeMidi } from 'midi-file'

const line = (ticks: number, seed: number): NoteLine => ({
  length: 16,
  notes: Array.from({ length: 60 }, (_, i) => ({
    start: Math.round(i * 0.2637 * ticks) / ticks,
    length: Math.round((0.1 + ((i * seed) % 7) * 0.13) * ticks) / ticks,
    pitch: 40 + ((i * seed) % 31),
    velocity: (1 + ((i * seed) % 127)) / 127,
  })),
  bend: [
    { x: 0.5, y: 0.5, bend: 0 },
    { x: 1.25, y: 0.75, bend: 0 },
  ],
  pressure: [{ x: 2, y: 100 / 127, bend: 0 }],
})

describe('Standard MIDI Files', () => {
  it.each([96, 384, 480, 960, 1024])(
    'what is written is read back the same, at %d ticks a beat, one line and two',
    (ticks) => {
      const lines = [
        { name: 'Galley melody', line: line(ticks, 5), channel: 0 },
        { name: 'Kit é', line: line(ticks, 11), channel: 9 },
      ]
      for (const some of [lines.slice(0, 1), lines]) {
        const file = readMidiFile(writeMidiFile(some, 107, 7))
        expect(file.tempo).toBeCloseTo(107, 3)
        expect([file.tempoChanges, file.beatsPerBar]).toEqual([0, 7])
        expect(file.length).toBeCloseTo(
          Math.max(16, ...some.flatMap((l) => l.line.notes.map((n) => n.start + n.length))),
          9,
        )
        expect(file.parts.map((p) => [p.name, p.channel])).toEqual(some.map((l) => [l.name, l.channel]))
        file.parts.forEach((p, k) => {
          const sorted = [...some[k]!.line.notes].sort((a, b) => a.start - b.start || a.pitch - b.pitch)
          expect(p.notes.length).toBe(60)
          p.notes.forEach((n, i) => {
            expect([n.pitch, n.velocity]).toEqual([sorted[i]!.pitch, sorted[i]!.velocity])
            expect(Math.abs(n.start - sorted[i]!.start)).toBeLessThan(1e-9)
          })
          expect(p.bend).toEqual(some[k]!.line.bend)
          expect(p.pressure).toEqual(some[k]!.line.pressure)
        })
        // and once more, byte for byte
        expect(
          writeMidiFile(
            file.parts.map((p) => ({
              name: p.name,
              channel: p.channel,
              line: { ...p, length: file.length },
            })),
            file.tempo!,
            7,
          ),
        ).toEqual(
          writeMidiFile(
            some.map((l) => ({ ...l, line: { ...l.line, length: file.length } })),
            107,
            7,
          ),
        )
      }
    },
  )
  it('tells of changes of tempo, takes channels apart, ends what is never let go, and what is let go twice once', () => {
    const file = readMidiFile(
      Uint8Array.from(
        writeMidi({
          header: { format: 0, numTracks: 1, ticksPerBeat: 100 },
          tracks: [
            [
              { deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat: 500_000 },
              { deltaTime: 0, type: 'noteOn', channel: 2, noteNumber: 60, velocity: 64 },
              { deltaTime: 50, type: 'noteOn', channel: 2, noteNumber: 60, velocity: 0 },
              { deltaTime: 0, type: 'noteOff', channel: 2, noteNumber: 60, velocity: 0 },
              { deltaTime: 50, meta: true, type: 'setTempo', microsecondsPerBeat: 600_000 },
              { deltaTime: 0, type: 'noteOn', channel: 5, noteNumber: 71, velocity: 127 },
              { deltaTime: 300, meta: true, type: 'endOfTrack' },
            ],
          ],
        }),
      ),
    )
    expect(file.tempo).toBe(120)
    expect(file.tempoChanges).toBe(1)
    expect(file.parts.map((p) => [p.channel, p.notes])).toEqual([
      [2, [{ start: 0, length: 0.5, pitch: 60, velocity: 64 / 127 }]],
      [5, [{ start: 1, length: 3, pitch: 71, velocity: 1 }]],
    ])
  })
  it('refuses what is none, with a sentence, and never hangs on a broken one', () => {
    expect(() => readMidiFile(new TextEncoder().encode('nothing of the sort'))).toThrow(MidiFileError)
    expect(() => readMidiFile(new Uint8Array(0))).toThrow(/not a Standard MIDI File/)
    const good = writeMidiFile([{ name: 'x', line: line(480, 5) }], 120, 4)
    const type2 = good.slice()
    type2[9] = 2
    expect(() => readMidiFile(type2)).toThrow(/type 2/)
    const film = good.slice()
    film[12] = 0xe7
    expect(() => readMidiFile(film)).toThrow(/SMPTE/)
    expect(() => readMidiFile(new Uint8Array(5 * 1024 * 1024))).toThrow(/can have 4 MB at most/)
    let x = 7
    const dice = (): number => (x = (Math.imul(x, 1664525) + 1013904223) >>> 0) / 4294967296
    for (let k = 0; k < 300; k++) {
      const broken = good.slice(0, Math.floor(good.length * (0.3 + 0.7 * dice())))
      for (let j = 0; j < 5; j++) broken[Math.floor(dice() * broken.length)] = Math.floor(dice() * 256)
      try {
        const { parts } = readMidiFile(broken)
        for (const p of parts)
          for (const n of p.notes)
            expect(
              n.length > 0 &&
                n.start >= 0 &&
                n.pitch >= 0 &&
                n.pitch <= 127 &&
                Number.isFinite(n.start + n.length + n.velocity),
            ).toBe(true)
      } catch (error) {
        expect(error).toBeInstanceOf(MidiFileError)
      }
    }
    expect(parseMidi(good).tracks).toHaveLength(1)
  })
})

describe('damaged files', () => {
  it('thirty bytes with a length that would turn negative are refused at once', () => {
    const head = [0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96]
    // a text event whose length has five bytes
    const track = [0, 0xff, 0x01, 0xff, 0xff, 0xff, 0xff, 0x7f]
    const bytes = Uint8Array.from([...head, 0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, track.length, ...track])
    expect(bytes.length).toBe(30)
    const start = performance.now()
    expect(() => readMidiFile(bytes)).toThrow(/not a Standard MIDI File/)
    expect(performance.now() - start).toBeLessThan(1000)
  })
  it('more bends than a line takes are thinned, and a stray data byte is brought into range', () => {
    const events: number[] = []
    const bends = 10_001
    events.push(0, 0x90, 60, 100)
    for (let i = 0; i < bends; i++) events.push(1, 0xe0, i & 127, (i * 7) & 127)
    events.push(1, 0xd0, 0xc8 & 127, 10, 0x80, 60, 0, 0, 0xff, 0x2f, 0)
    const head = [0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96]
    const n = events.length
    const file = readMidiFile(
      Uint8Array.from([
        ...head,
        0x4d,
        0x54,
        0x72,
        0x6b,
        n >> 24,
        (n >> 16) & 255,
        (n >> 8) & 255,
        n & 255,
        ...events,
      ]),
    )
    expect(file.parts[0]!.bend.length).toBeLessThanOrEqual(10_000)
    expect(file.parts[0]!.bend.length).toBeGreaterThan(2000)
    for (const { y } of [...file.parts[0]!.bend, ...file.parts[0]!.pressure])
      expect(y >= 0 && y <= 1).toBe(true)
  })
})
