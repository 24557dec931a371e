import { MidiFileError, type MidiFile, type MidiPart, writeMidiFile } from '@oleaje/core/formats/midi'
import { addTrack } from '@oleaje/core/project/chain-edits'
import { type Edit, together } from '@oleaje/core/project/edit'
import { newId, newSource, newTrack } from '@oleaje/core/project/new'
import { setNoteLine } from '@oleaje/core/project/note-edits'
import type { NoteLine, Track } from '@oleaje/core/project/schema'
import { setTempo } from '@oleaje/core/project/song-edits'
import { fileOpen, fileSave } from 'browser-fs-access'
import type { OfferedMidi } from '../contract/offered-midi'
import type { Stores } from '../stores/index'
import type { useDocument } from '../stores/document'
import { HeavyWorker } from '../workers/heavy-worker'
import { sentence } from './sentence'

/** After so long a file counts as one that cannot be read. */
const PATIENCE_MS = 15_000

/** Standard MIDI Files: brought in part by part, and written. */
export class MidiFiles {
  constructor(
    private readonly doc: ReturnType<typeof useDocument>,
    private readonly stores: Pick<Stores, 'screen'>,
  ) {}

  /** Asks for a file, for a track. */
  async choose(track: Track | null): Promise<void> {
    const file = await fileOpen({
      mimeTypes: ['audio/midi'],
      extensions: ['.mid', '.midi'],
      description: 'Standard MIDI File',
    }).catch(() => null)
    if (file) await this.offer(file, track?.id ?? null)
  }

  /** Opens a file's parts to be chosen. Says what is wrong with it otherwise. */
  async offer(file: File, track: string | null): Promise<void> {
    try {
      const read = await this.read(file)
      if (read.parts.length === 0) throw new MidiFileError('it has no notes in it.')
      this.stores.screen.offeredMidi = { name: file.name.replace(/\.[^.]+$/, ''), file: read, track }
      this.stores.screen.dialog = 'midi'
    } catch (error) {
      this.doc.trouble = `“${file.name}” was not imported: ${sentence(error)}`
    }
  }

  /** Reads a file in a worker of its own, which is left alone where it does not answer in time. */
  private async read(file: File): Promise<MidiFile> {
    const reader = new HeavyWorker()
    let timer: ReturnType<typeof setTimeout> | undefined
    const tooLong = new Promise<never>((_, reject) => {
      timer = setTimeout(
        () =>
          reject(
            new MidiFileError('reading took too long. The file is damaged, or not a Standard MIDI File.'),
          ),
        PATIENCE_MS,
      )
    })
    try {
      return await Promise.race([reader.call.readMidi(file), tooLong])
    } finally {
      clearTimeout(timer)
      reader.end()
    }
  }

  /**
   * Gives parts to tracks, each to one or to a new played sound, and takes the tempo where that is wished;
   * one step.
   */
  take(
    offered: OfferedMidi,
    places: readonly { readonly part: MidiPart; readonly to: string }[],
    takesTempo: boolean,
  ): void {
    const bar = this.doc.project?.beatsPerBar ?? 4
    const length = Math.max(bar, Math.ceil(offered.file.length / bar - 1e-6) * bar)
    const edits = places.flatMap(({ part, to }): Edit[] => {
      const line: NoteLine = {
        length,
        notes: part.notes.map((n) => ({ ...n })),
        bend: part.bend.map((p) => ({ ...p })),
        pressure: part.pressure.map((p) => ({ ...p })),
      }
      if (to !== 'new') return [setNoteLine(to, line)]
      return [addTrack({ ...newTrack(part.name, newSource('played', { plays: 3 }), newId()), line })]
    })
    const { tempo } = offered.file
    if (takesTempo && tempo !== null) edits.unshift(setTempo(tempo))
    if (edits.length) this.doc.edit(`Import notes from ${offered.name}`, together(...edits))
  }

  /** Writes the notes of a track, or of all tracks that have some. */
  async save(track: Track | null): Promise<void> {
    const { project } = this.doc
    if (!project) return
    const lines = (track ? [track] : project.tracks).flatMap((t) =>
      t.line?.notes.length ? [{ name: t.name, line: t.line }] : [],
    )
    const bytes = writeMidiFile(lines, project.tempo, project.beatsPerBar)
    await fileSave(new Blob([new Uint8Array(bytes)], { type: 'audio/midi' }), {
      fileName: `${track ? track.name : project.name}.mid`,
      extensions: ['.mid'],
      description: 'Standard MIDI File',
    }).catch(() => {})
  }
}
