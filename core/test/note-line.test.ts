import { describe, expect, it } from 'vitest'
import { BLOCK, NOTE_EVENTS, songBlock } from '@oleaje/core/contract/block'
import { NoteLineStep } from '@oleaje/core/engine/note-line-step'
import type { NoteLine } from '@oleaje/core/project/schema'
import { RATE } from './rig'

interface Event {
  readonly at: number
  readonly begins: boolean
  readonly pitch: number
  readonly velocity: number
}

/** A track's notes at 120 bpm: a beat is 24 000 frames. */
function player(line: NoteLine | null) {
  const song = songBlock()
  song.playing = true
  song.beatsPerFrame = 2 / RATE
  const step = new NoteLineStep(song, RATE)
  step.set({ line })
  let at = 0
  let run = 0
  function blocks(count: number): Event[] {
    const events: Event[] = []
    for (let b = 0; b < count; b++) {
      for (let i = 0; i < BLOCK; i++) {
        song.frames[i] = at + i
        song.beats[i] = (at + i) * song.beatsPerFrame
        song.run[i] = (run + i) * song.beatsPerFrame
      }
      step.run()
      for (let k = 0; k < step.out.count; k++)
        events.push({
          at: run + step.out.frame[k]!,
          begins: step.out.begins[k] === 1,
          pitch: step.out.pitch[k]!,
          velocity: step.out.velocity[k]!,
        })
      at += BLOCK
      run += BLOCK
    }
    return events
  }
  return {
    song,
    step,
    blocks,
    seek: (frame: number) => {
      at = frame
    },
  }
}
const note = (start: number, length: number, pitch: number, velocity = 0.8) => ({
  start,
  length,
  pitch,
  velocity,
})
const lineOf = (notes: NoteLine['notes'], o: Partial<NoteLine> = {}): NoteLine => ({
  length: 0,
  notes,
  bend: [],
  pressure: [],
  ...o,
})
const beats = (n: number): number => Math.ceil((n * RATE) / 2 / BLOCK)

describe('the notes of a track', () => {
  it('begin and end on their frames, whatever order they are stored in', () => {
    expect(player(lineOf([note(1, 0.5, 64, 0.5), note(0, 0.25, 60)])).blocks(beats(2))).toEqual([
      { at: 0, begins: true, pitch: 60, velocity: 0.8 },
      { at: 6000, begins: false, pitch: 60, velocity: 0 },
      { at: 24_000, begins: true, pitch: 64, velocity: 0.5 },
      { at: 36_000, begins: false, pitch: 64, velocity: 0 },
    ])
  })
  it('begin with the frame after, where they fall between two', () => {
    expect(player(lineOf([note((1000.4 * 2) / RATE, 1, 60)])).blocks(10)[0]?.at).toBe(1001)
  })
  it('come round with a line of an own length, however the song goes', () => {
    const starts = player(lineOf([note(0.5, 0.1, 60)], { length: 1.5 }))
      .blocks(beats(4.9))
      .filter((e) => e.begins)
      .map((e) => e.at)
    expect(starts).toEqual([12_000, 48_000, 84_000])
  })
  it('follow the song where their line has no length of its own, and none begins twice or is lost at a block’s edge', () => {
    const notes = Array.from({ length: 50 }, (_, i) => note((i * BLOCK * 2) / RATE, 0.001, i))
    const events = player(lineOf(notes)).blocks(60)
    expect(events.filter((e) => e.begins).map((e) => e.pitch)).toEqual(notes.map((n) => n.pitch))
    const p = player(lineOf([note(4, 0.1, 70)]))
    p.seek((4 * RATE) / 2 - 50)
    expect(
      p
        .blocks(2)
        .filter((e) => e.begins)
        .map((e) => e.at),
    ).toEqual([50])
  })
  it('end when the song stops, and sound on to their ends when the line is edited', () => {
    const p = player(lineOf([note(0, 8, 60)]))
    expect(p.blocks(2)).toHaveLength(1)
    p.step.set({ line: lineOf([note(0, 8, 60), note(20, 1, 62)]) })
    expect(p.blocks(4)).toEqual([])
    p.song.playing = false
    expect(p.blocks(2).map((e) => [e.pitch, e.begins])).toEqual([[60, false]])
  })
  it('may be more than can sound or begin in a block: the first do, and all that began end', () => {
    const p = player(lineOf(Array.from({ length: 300 }, (_, i) => note(0, 0.05, i / 3))))
    const events = p.blocks(beats(1))
    const began = events.filter((e) => e.begins).map((e) => e.pitch)
    expect(began).toHaveLength(256)
    expect(
      events
        .filter((e) => !e.begins)
        .map((e) => e.pitch)
        .sort((a, b) => a - b),
    ).toEqual(began)
  })
  it('played live begin with the next block, stopped or not, and as many as can wait', () => {
    const p = player(null)
    p.song.playing = false
    p.step.play(60, 0.7)
    p.step.play(60, 0)
    expect(p.blocks(1)).toEqual([
      { at: 0, begins: true, pitch: 60, velocity: 0.7 },
      { at: 0, begins: false, pitch: 60, velocity: 0 },
    ])
    expect(p.blocks(1)).toEqual([])
    // a flood: what does not fit into a block comes with the next ones, in order, and none is lost
    for (let i = 0; i < 5000; i++) p.step.play((i >> 1) % 128, 1 - (i % 2))
    const flood = p.blocks(12)
    expect(flood.map((e) => [e.pitch, e.begins])).toEqual(
      Array.from({ length: 5000 }, (_, i) => [(i >> 1) % 128, i % 2 === 0]),
    )
    expect(flood[NOTE_EVENTS]!.at).toBe(flood[0]!.at + BLOCK)
  })
  it('played live and due a block later begins with the block that it falls into', () => {
    const p = player(null)
    p.step.play(60, 0.7, BLOCK)
    p.step.play(62, 0.7, BLOCK + 1)
    expect(p.blocks(1)).toEqual([])
    expect(p.blocks(1).map((e) => [e.pitch, e.at])).toEqual([
      [60, BLOCK],
      [62, BLOCK + 1],
    ])
  })
  it('ten thousand a second for a minute, in bursts: none is lost, and none comes later than the block after its own', () => {
    const p = player(null)
    p.song.playing = false
    let sent = 0
    let received = 0
    for (let b = 0; b < 22_500; b++) {
      // two hundred at once every 20 ms, and the rest evenly
      const count = b % 15 === 0 ? 200 : 14
      for (let i = 0; i < count; i++) p.step.play((sent >> 1) % 128, 1 - (sent++ % 2))
      for (const e of p.blocks(1)) {
        if (e.pitch !== (received >> 1) % 128 || e.begins !== (received % 2 === 0))
          throw new Error(`message ${received} is another`)
        received++
      }
      expect(sent - received).toBe(0)
    }
    expect(sent).toBeGreaterThan(590_000)
  })
  it('are forgotten by a reset', () => {
    const p = player(lineOf([note(0, 1, 60)]))
    p.blocks(2)
    p.step.play(70, 1)
    p.step.reset()
    expect(p.blocks(beats(2)).filter((e) => e.at > 0)).toEqual([])
  })
})

describe('bend and pressure', () => {
  const curve: NoteLine['bend'] = [
    { x: 0, y: 0.5, bend: 0 },
    { x: 1, y: 1, bend: 0 },
  ]
  it('stand still without a line, as the hands have left them', () => {
    const p = player(null)
    p.step.shape(0.7, 0.3)
    p.blocks(1)
    expect([p.step.out.bend.constant, p.step.out.bend.value, p.step.out.pressure.value]).toEqual([
      true,
      0.7,
      0.3,
    ])
  })
  it('drawn, go with the song; the hand’s bend is added and the stronger pressure is heard', () => {
    const p = player(lineOf([], { bend: curve, pressure: curve }))
    p.step.shape(0.4, 0.6)
    p.seek(RATE / 4)
    p.blocks(1)
    // half a beat in, the curve is at three quarters
    expect(p.step.out.bend.buffer[0]).toBeCloseTo(0.75 - 0.1, 3)
    expect(p.step.out.pressure.buffer[0]).toBeCloseTo(0.75, 3)
    p.step.shape(1, 0.9)
    p.blocks(1)
    expect(p.step.out.bend.buffer[0]).toBe(1)
    expect(p.step.out.pressure.buffer[0]).toBeCloseTo(0.9, 6)
  })
})
