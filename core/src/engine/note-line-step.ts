import { DrawnShape } from '../dsp/drawn-shape'
import type { Track } from '../project/schema'
import { BLOCK, type NoteBlock, type SongBlock, noteBlock } from '../contract/block'
import { ArpeggioPlayer } from './arpeggio'
import type { LateNotes } from './late-notes'
import { LinePlayer } from './line-player'
import { LiveNotes } from './live-notes'
import { NoteStream } from './note-stream'
import type { Step } from './step'

/** The parts of a track that make its notes. */
export type NotesOf = Pick<Track, 'line' | 'noteOffset' | 'arpeggio'>

/**
 * Plays a track's notes and passes on those that are played live; an arpeggio makes its own of both.
 */
export class NoteLineStep implements Step {
  readonly out: NoteBlock = noteBlock()
  readonly keepsTime = true
  /** Its notes, delayed for users behind latency. */
  late: readonly LateNotes[] = []
  /** Input of an arpeggio. */
  private readonly raw: NoteBlock = noteBlock()
  private readonly stream = new NoteStream(this.out)
  private readonly live = new LiveNotes(this.stream)
  private readonly player: LinePlayer
  private arpeggio: ArpeggioPlayer | null = null
  private readonly bend = new DrawnShape()
  private readonly pressure = new DrawnShape()

  constructor(
    private readonly song: SongBlock,
    private readonly sampleRate: number,
  ) {
    this.player = new LinePlayer(song, this.stream)
  }

  /** Takes edited notes; sounding ones continue to their ends. */
  set({ line, noteOffset, arpeggio }: NotesOf): void {
    this.player.offset = Math.round((noteOffset ?? 0) * this.sampleRate)
    if (!arpeggio?.on) this.arpeggio = null
    else if (this.arpeggio) this.arpeggio.take(arpeggio)
    else this.arpeggio = new ArpeggioPlayer(arpeggio)
    this.stream.to = this.arpeggio ? this.raw : this.out
    if (line === this.player.line) return
    this.player.set(line)
    this.bend.set(line?.bend ?? [])
    this.pressure.set(line?.pressure ?? [])
  }

  mute(): void {
    this.out.count = 0
  }

  /**
   * A note played live, so many frames after the start of the next block: velocity 0 ends the oldest that is
   * held of its pitch.
   */
  play(pitch: number, velocity: number, delay = 0): void {
    this.live.play(pitch, velocity, delay)
  }

  /** Bend (½ for none) and pressure of a live player, 0…1. */
  shape(bend: number, pressure: number): void {
    this.live.bend = bend
    this.live.pressure = pressure
  }

  run(): void {
    this.stream.to.count = 0
    this.live.pass()
    this.player.run()
    if (this.arpeggio) this.arpeggio.process(this.raw, this.out, this.song)
    this.shapeBlock()
    this.live.goOn()
    for (let k = 0; k < this.late.length; k++) this.late[k].process()
  }

  private shapeBlock(): void {
    const { out, song, live } = this
    const { line } = this.player
    if (!line || !song.playing || (line.bend.length === 0 && line.pressure.length === 0)) {
      out.bend.hold(live.bend)
      out.pressure.hold(live.pressure)
      return
    }
    const bends = out.bend.buffer
    const pressures = out.pressure.buffer
    const { length } = line
    for (let i = 0; i < BLOCK; i++) {
      const at = length > 0 ? song.run[i] - Math.floor(song.run[i] / length) * length : song.beats[i]
      const b = line.bend.length > 0 ? this.bend.at(at) + live.bend - 0.5 : live.bend
      const q = line.pressure.length > 0 ? this.pressure.at(at) : 0
      bends[i] = b < 0 ? 0 : b > 1 ? 1 : b
      pressures[i] = q > live.pressure ? q : live.pressure
    }
    out.bend.move()
    out.pressure.move()
  }

  reset(): void {
    this.live.reset()
    this.player.reset()
    this.arpeggio?.reset()
    for (const late of this.late) late.reset()
  }

  cut(): void {}
}
