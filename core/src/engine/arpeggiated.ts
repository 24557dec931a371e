import { BLOCK } from '../contract/block'
import type { Arpeggio, Note, NoteLine } from '../project/schema'
import { NoteLineStep } from './note-line-step'
import { Transport } from './transport'

const RATE = 48_000

/**
 * The notes that an arpeggio plays of a line in one of its rounds, as the engine plays them; of one that goes
 * on by the song, to its end.
 */
export function arpeggiated(line: NoteLine, arpeggio: Arpeggio, tempo: number): Note[] {
  const length = line.length > 0 ? line.length : Math.max(0, ...line.notes.map((n) => n.start + n.length))
  const transport = new Transport(RATE)
  transport.configure(tempo, { on: false, start: 0, end: 0 }, false)
  const step = new NoteLineStep(transport.song, RATE)
  step.set({ line, arpeggio: { ...arpeggio, on: true } })
  transport.play(0)
  const notes: Note[] = []
  // places of the notes that sound, by their numbers
  const open = new Map<number, number>()
  const tick = arpeggio.step / 96
  const exact = (beats: number): number => Math.round(beats / tick) * tick
  for (let at = 0; at * transport.beatsPerFrame < length + arpeggio.gate * arpeggio.step + 1; at += BLOCK) {
    transport.advance()
    step.run()
    for (let k = 0; k < step.out.count; k++) {
      const beats = (at + step.out.frame[k]) * transport.beatsPerFrame
      const id = step.out.id[k]
      const begun = open.get(id)
      if (begun !== undefined) {
        const note = notes[begun]
        notes[begun] = { ...note, length: Math.max(tick, beats - note.start) }
        open.delete(id)
      }
      if (step.out.begins[k] !== 1 || beats > length - 1e-6) continue
      open.set(id, notes.length)
      // steps with swing lie where they do, all others on the grid itself
      notes.push({
        start: Math.abs(exact(beats) - beats) < 1.5 * transport.beatsPerFrame ? exact(beats) : beats,
        length: arpeggio.gate * arpeggio.step,
        pitch: step.out.pitch[k],
        velocity: step.out.velocity[k],
      })
    }
  }
  return notes
}
