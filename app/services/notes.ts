import {
  addNotes,
  editLine,
  emptyLine,
  overdub,
  quantiseNotes,
  setArpeggio,
} from '@oleaje/core/project/note-edits'
import { together } from '@oleaje/core/project/edit'
import type { Note, NoteLine, Track } from '@oleaje/core/project/schema'
import type { EngineHost } from '../audio/host'
import type { PlayedNote } from '../contract/played-note'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import type { HeavyWorker } from '../workers/heavy-worker'
import { sentence } from './sentence'
import type { TransportService } from './transport'

/** Grid that takes are brought to, in quarter notes. */
const GRID = 0.25

/** Takes of notes that are played while the song does. */
export class Notes {
  private taken: Note[] = []
  private readonly open = new Map<number, { at: number; velocity: number }>()
  private clicks: ReturnType<typeof setTimeout> | undefined

  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'monitoring' | 'recording'>,
    private readonly host: EngineHost,
    private readonly transport: TransportService,
    private readonly heavy: HeavyWorker,
  ) {
    host.on.played = (note) => {
      this.hear(note)
    }
  }

  /** Begins a take on a track, and plays where nothing plays yet; or ends the one under way. */
  record(track: Track): void {
    const { monitoring, recording } = this.stores
    if (recording.recordingNotes) {
      const same = recording.recordingNotes === track.id
      this.end()
      if (same) return
    }
    this.taken = []
    this.open.clear()
    recording.recordingNotes = track.id
    this.host.takeNotes(true)
    if (monitoring.playing || monitoring.starting) return
    if (recording.countsIn) void this.countIn()
    else void this.transport.toggle()
  }

  /** A bar of clicks, then the song. */
  private async countIn(): Promise<void> {
    const { project } = this.doc
    if (!project) return
    await this.host.start(project).catch(() => {})
    const seconds = this.host.click(project.beatsPerBar, 60 / project.tempo)
    this.clicks = setTimeout(() => {
      if (this.stores.recording.recordingNotes) void this.transport.toggle()
    }, seconds * 1000)
  }

  /** Ends a take: what was played is joined to the notes as one step. */
  end(): void {
    const { doc } = this
    const { recording } = this.stores
    const track = doc.project?.tracks.find((t) => t.id === recording.recordingNotes)
    recording.recordingNotes = null
    clearTimeout(this.clicks)
    this.host.takeNotes(false)
    if (!track) return
    for (const pitch of [...this.open.keys()]) this.close(pitch, this.placeNow(track))
    const { taken } = this
    this.taken = []
    if (!taken.length) return
    const quantises = recording.quantisesTakes
    const length = this.loopLength
    doc.edit(
      `Take of ${taken.length} notes`,
      editLine(
        track.id,
        (line) => {
          const before = line.notes.length
          const joined = overdub(line, taken)
          return quantises ? quantiseNotes(joined, new Set(taken.map((_, i) => before + i)), GRID, 1) : joined
        },
        length,
      ),
    )
  }

  /** Where the playhead stands in a line, in its own quarter notes. */
  beatIn(line: NoteLine): number {
    const at = this.host.telemetry.fixed('beat')
    return line.length > 0 ? at - Math.floor(at / line.length) * line.length : at
  }

  /** Puts what an arpeggio plays of a track's notes in their place, and switches it off. */
  async keepArpeggio(track: Track): Promise<void> {
    const { project } = this.doc
    if (!project || !track.arpeggio || !track.line) return
    const { line: before, arpeggio } = track
    let notes: Note[]
    try {
      notes = await this.heavy.call.arpeggioNotes(before, arpeggio, project.tempo)
    } catch (error) {
      this.doc.trouble = sentence(error)
      return
    }
    const now = this.doc.project?.tracks.find((t) => t.id === track.id)
    if (!now) return
    // an edit that came meanwhile counts
    if (now.line !== before || now.arpeggio !== arpeggio) return this.keepArpeggio(now)
    this.doc.edit(
      'Keep the arpeggio as notes',
      together(
        editLine(track.id, (line) => addNotes({ ...line, notes: [] }, notes)),
        setArpeggio(track.id, {
          ...(JSON.parse(JSON.stringify(track.arpeggio)) as NonNullable<Track['arpeggio']>),
          on: false,
        }),
      ),
    )
  }

  private get loopLength(): number {
    const { loop } = this.doc.project ?? {}
    return loop ? Math.max(1, loop.end - loop.start) : 16
  }

  private placeNow(track: Track): number {
    const line = track.line ?? emptyLine(this.loopLength)
    return line.length > 0 ? this.lastRun : this.host.telemetry.fixed('beat')
  }
  private lastRun = 0

  private hear(note: PlayedNote): void {
    const { doc } = this
    const { monitoring, recording } = this.stores
    const track = doc.project?.tracks.find((t) => t.id === recording.recordingNotes)
    if (!track || note.track !== track.id || !monitoring.playing || !doc.project) return
    const line = track.line ?? emptyLine(this.loopLength)
    // what is heard has left the engine so much earlier: one plays to that
    const late = ((this.host.deviceLatency / 1000) * doc.project.tempo) / 60
    const at = Math.max(0, (line.length > 0 ? note.run : note.beat) - late)
    this.lastRun = note.run
    this.close(note.pitch, at)
    if (note.velocity > 0) this.open.set(note.pitch, { at, velocity: note.velocity })
  }

  private close(pitch: number, at: number): void {
    const begun = this.open.get(pitch)
    if (!begun) return
    this.open.delete(pitch)
    // a loop of the song may have jumped meanwhile
    const length = at > begun.at ? at - begun.at : GRID
    this.taken.push({ start: begun.at, length: Math.max(1 / 64, length), pitch, velocity: begun.velocity })
  }
}
