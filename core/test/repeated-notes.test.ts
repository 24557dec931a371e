import { describe, expect, it } from 'vitest'
import { BLOCK } from '@oleaje/core/contract/block'
import { newSource } from '@oleaje/core/project/new'
import type { Note } from '@oleaje/core/project/schema'
import { NoteLineStep } from '@oleaje/core/engine/note-line-step'
import { Transport } from '@oleaje/core/engine/transport'
import { Random } from '@oleaje/core/dsp/random'
import { RATE, peak, sine } from './rig'
import { engineOf, play, projectOf } from './project-rig'

/** A track whose notes play a wave, each note alone or over another. */
function playing(notes: Note[], tempo: number, params: Record<string, number> = {}) {
  const p = projectOf(sine(311, 1), [])
  const track = p.project.tracks[0]!
  track.source = newSource(
    'played',
    { plays: 1, voices: 8, attack: 0, decay: 0, sustain: 1, release: 0, ...params },
    null,
    'src',
  )
  track.line = { length: 0, notes, bend: [], pressure: [] }
  p.project.tempo = tempo
  return p
}

describe('notes of one pitch, each as long as its spacing', () => {
  it.each([103.7, 141.7, 97.3])('all sound at %d bpm', (tempo) => {
    const notes = Array.from({ length: 16 }, (_, k) => ({
      start: k / 4,
      length: 1 / 4,
      pitch: 57,
      velocity: 0.8,
    }))
    const { left } = play(playing(notes, tempo), (4.5 * 60) / tempo)
    const spacing = (60 / tempo / 4) * RATE
    notes.forEach((_, k) => {
      expect(
        peak(left.subarray(Math.round((k + 0.2) * spacing), Math.round((k + 0.8) * spacing))),
        `note ${k}`,
      ).toBeGreaterThan(0.1)
    })
    expect(peak(left.subarray(Math.round(16.3 * spacing)))).toBeLessThan(1e-4)
  })
})

describe('repeated, overlapping and touching notes', () => {
  const rounds = process.env.OLEAJE_LONG ? 1000 : 60
  it(`of one pitch each begin and end once, each end its own, in ${rounds} rounds at 40 tempi`, () => {
    const random = new Random(23)
    for (let t = 0; t < 40; t++) {
      const tempo = 20 + 280 * random.next()
      const spacing = 0.03 + random.next()
      const length = spacing * [0.5, 1, 1.37, 3][t % 4]!
      const notes = Array.from({ length: 8 }, (_, k) => ({
        start: k * spacing,
        length,
        pitch: 64,
        velocity: 0.5,
      }))
      const transport = new Transport(RATE)
      transport.configure(tempo, { on: false, start: 0, end: 0 }, false)
      const step = new NoteLineStep(transport.song, RATE)
      step.set({ line: { length: 8 * spacing, notes, bend: [], pressure: [] } })
      transport.play(0)
      const began = new Map<number, number>()
      let ended = 0
      let wrong = 0
      const perFrame = transport.beatsPerFrame
      for (let at = 0; at * perFrame < rounds * 8 * spacing * 0.1 + 8 * spacing; at += BLOCK) {
        transport.advance()
        step.run()
        for (let e = 0; e < step.out.count; e++) {
          const id = step.out.id[e]!
          const beat = (at + step.out.frame[e]!) * perFrame
          if (step.out.begins[e] === 1) {
            if (began.has(id)) wrong++
            began.set(id, beat)
            continue
          }
          const from = began.get(id)
          ended++
          // a frame at either end
          if (from === undefined || Math.abs(beat - from - length) > 1.01 * perFrame) wrong++
        }
      }
      expect(wrong, `${tempo} bpm`).toBe(0)
      expect(began.size - ended).toBeLessThanOrEqual(Math.ceil(length / spacing))
      expect(began.size).toBeGreaterThan(7)
    }
  })
})

it('a note played live ends by its own end, though another of its pitch is held', () => {
  const engine = engineOf(playing([], 120))
  const left = new Float32Array(BLOCK)
  const right = new Float32Array(BLOCK)
  const level = (blocks: number): number => {
    let most = 0
    for (let b = 0; b < blocks; b++) {
      engine.process(left, right)
      most = b > blocks / 2 ? Math.max(most, peak(left)) : 0
    }
    return most
  }
  engine.note('t', 57, 0.8)
  const one = level(20)
  engine.note('t', 57, 0.8)
  expect(level(20)).toBeGreaterThan(1.2 * one)
  engine.note('t', 57, 0)
  expect(level(20)).toBeGreaterThan(0.8 * one)
  engine.note('t', 57, 0)
  expect(level(20)).toBeLessThan(1e-4)
})
