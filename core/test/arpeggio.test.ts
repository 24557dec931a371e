import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { NoteLineStep } from '@oleaje/core/engine/note-line-step'
import { Transport } from '@oleaje/core/engine/transport'
import { type Arpeggio, type NoteLine, arpeggioSchema } from '@oleaje/core/project/schema'
import { RATE } from './rig'

const TEMPO = 107
interface Begun {
  readonly at: number
  readonly pitch: number
  readonly velocity: number
  readonly length: number
}

/**
 * Notes that an arpeggio begins, with their lengths in frames, while keys are pressed and let go before
 * certain blocks.
 */
function played(
  set: Partial<Arpeggio>,
  o: { blocks?: number; line?: NoteLine; playing?: boolean; keys?: Record<number, [number, number][]> },
): Begun[] {
  const transport = new Transport(RATE)
  transport.configure(TEMPO, { on: false, start: 0, end: 0 }, false)
  const step = new NoteLineStep(transport.song, RATE)
  step.set({ line: o.line ?? null, arpeggio: arpeggioSchema.parse(set) })
  if (o.playing !== false) transport.play(0)
  const found: { at: number; pitch: number; velocity: number; length: number }[] = []
  const open = new Map<number, number>()
  for (let b = 0; b < (o.blocks ?? 1500); b++) {
    for (const [pitch, velocity] of o.keys?.[b] ?? []) step.play(pitch, velocity)
    transport.advance()
    step.run()
    for (let k = 0; k < step.out.count; k++) {
      const at = b * BLOCK + step.out.frame[k]!
      const pitch = step.out.pitch[k]!
      if (step.out.begins[k] === 1) {
        expect(open.has(pitch)).toBe(false)
        open.set(pitch, found.length)
        found.push({ at, pitch, velocity: step.out.velocity[k]!, length: NaN })
      } else {
        const n = open.get(pitch)
        open.delete(pitch)
        if (n !== undefined) found[n]!.length = at - found[n]!.at
      }
    }
  }
  return found
}

const chord = (...pitches: number[]): NoteLine => ({
  length: 64,
  bend: [],
  pressure: [],
  notes: pitches.map((pitch, i) => ({ start: 0, length: 60, pitch, velocity: 0.5 + 0.1 * i })),
})
const frame = (beats: number): number => Math.max(0, Math.ceil(((beats * 60) / TEMPO) * RATE - 1e-6))

describe('an arpeggio', () => {
  it.each([
    ['up', [57, 60, 64, 69, 72, 76, 57, 60]],
    ['down', [76, 72, 69, 64, 60, 57, 76, 72]],
    ['to-and-fro', [57, 60, 64, 69, 72, 76, 72, 69]],
    ['as played', [60, 57, 64, 72, 69, 76, 60, 57]],
  ] as const)('%s over two octaves', (order, pitches) => {
    expect(
      played({ order, octaves: 2, step: 0.25 }, { line: chord(60, 57, 64) })
        .slice(0, 8)
        .map((n) => n.pitch),
    ).toEqual(pitches)
  })
  it('keeps to steps of three eighths, sample by sample, with gate and swing', () => {
    const notes = played({ step: 1.5, gate: 0.37, swing: 0.2 }, { line: chord(60, 64), blocks: 4000 })
    expect(notes.length).toBeGreaterThan(10)
    notes.slice(0, -1).forEach((n, k) => {
      const time = (k + (k % 2) * 0.2) * 1.5
      expect(n.at).toBe(frame(time))
      expect(Math.abs(n.length - ((0.37 * 1.5 * 60) / TEMPO) * RATE)).toBeLessThanOrEqual(1)
    })
  })
  it('adds the transposition and takes the velocity of each step, and leaves steps out', () => {
    const notes = played(
      {
        steps: [
          { transpose: 0, velocity: 1 },
          { transpose: 7, velocity: 0.5 },
          { transpose: 0, velocity: 0 },
        ],
      },
      { line: chord(60) },
    )
    expect(notes.slice(0, 4).map((n) => [n.pitch, n.velocity])).toEqual([
      [60, 0.5],
      [67, 0.25],
      [60, 0.5],
      [67, 0.25],
    ])
    expect(notes[2]!.at).toBe(frame(0.75))
  })
  it('plays chords, an octave higher each time', () => {
    expect(
      played({ order: 'chord', octaves: 2 }, { line: chord(60, 64) })
        .slice(0, 6)
        .map((n) => n.pitch),
    ).toEqual([60, 64, 72, 76, 60, 64])
  })
  it('at random is the same in every run, and plays all notes', () => {
    const a = played({ order: 'random', octaves: 2 }, { line: chord(60, 64, 67) })
    expect(played({ order: 'random', octaves: 2 }, { line: chord(60, 64, 67) })).toEqual(a)
    expect(new Set(a.map((n) => n.pitch)).size).toBe(6)
  })
  it('is played by hand while the song stands, from the first key on; hold keeps the chord until the next one', () => {
    const keys = {
      10: [
        [60, 1],
        [64, 0.6],
      ],
      300: [
        [60, 0],
        [64, 0],
      ],
      500: [[70, 1]],
      520: [[70, 0]],
    } as Record<number, [number, number][]>
    const free = played({}, { playing: false, keys })
    expect(free[0]).toMatchObject({ at: 10 * BLOCK, pitch: 60, velocity: 1 })
    expect(free[1]!.at - free[0]!.at).toBe(frame(0.25))
    expect(free.filter((n) => n.at > 301 * BLOCK && n.at < 500 * BLOCK)).toEqual([])
    expect(free.find((n) => n.at >= 500 * BLOCK)).toMatchObject({ at: 500 * BLOCK, pitch: 70 })
    const kept = played({ hold: true }, { playing: false, keys })
    expect(new Set(kept.filter((n) => n.at > 301 * BLOCK && n.at < 500 * BLOCK).map((n) => n.pitch))).toEqual(
      new Set([60, 64]),
    )
    expect(new Set(kept.filter((n) => n.at > 530 * BLOCK).map((n) => n.pitch))).toEqual(new Set([70]))
  })
  it('ends all that it begins', () => {
    for (const order of ['up', 'chord', 'random'] as const) {
      const notes = played(
        { order, gate: 2.3, step: 0.37 },
        {
          keys: {
            0: [
              [60, 1],
              [64, 1],
              [67, 1],
            ],
            700: [
              [60, 0],
              [64, 0],
              [67, 0],
            ],
          },
        },
      )
      expect(notes.length).toBeGreaterThan(5)
      for (const n of notes) expect(n.length).toBeGreaterThan(0)
    }
  })
})
