import { StoredZip } from '@oleaje/core/formats/zip-parts'
import { isArchive } from '@oleaje/core/formats/archive'
import { packBundle, readBundle } from '@oleaje/core/formats/bundle'
import { type MidiFile, readMidiFile } from '@oleaje/core/formats/midi'
import { audioPieces } from '@oleaje/core/formats/read-audio'
import type { Project } from '@oleaje/core/project/schema'
import type { Preset } from '@oleaje/core/project/preset'
import { isPack, readPack, writePack } from '@oleaje/core/formats/pack'
import { newId } from '@oleaje/core/project/new'
import type { Sound } from '../contract/messages'
import { type BroughtBack, exportEverything, importEverything } from '../storage/everything'
import { removeForNow } from '../storage/removals'
import { Parts, sourceOf } from './blob-bytes'
import { audioOf, readAsNeeded } from './audio-of'
import { bringIn } from './bring-in'

/** Files that hold more than one sound, and MIDI files. */
export const fileWork = {
  /** Reads a Standard MIDI File. */
  async readMidi(file: Blob): Promise<MidiFile> {
    return readMidiFile(new Uint8Array(await file.arrayBuffer()))
  },

  /**
   * A project with its sounds as one file. Long sounds are read from where they are kept, at the rate they
   * have there.
   */
  async pack(project: Project, sounds: Sound[]): Promise<Blob> {
    const file = new Parts()
    await packBundle(
      {
        project,
        audio: new Map(sounds.map((s) => [s.hash, s.long ? readAsNeeded(s.long, s.long.sampleRate) : s])),
      },
      (part) => file.add(part),
    )
    return file.blob('application/zip')
  },

  /** A project with its sounds from one file. Its long sounds are put away on the way, and are kept. */
  async unpack(file: Blob): Promise<{ project: Project; sounds: Sound[] }> {
    const long = new Map<string, Sound>()
    const { project, audio } = await readBundle(sourceOf(file), undefined, () => {
      const parts = new Parts()
      return {
        write: (part) => parts.add(part),
        end: async () => {
          const { formerHash, ...sound } = await bringIn(
            audioPieces(sourceOf(parts.blob('audio/wav'))),
            null,
            true,
          )
          long.set(sound.hash, sound)
          return {
            hash: sound.hash,
            formerHash,
            sound: sound.long ? readAsNeeded(sound.long, sound.sampleRate) : sound,
          }
        },
      }
    })
    return {
      project,
      sounds: [...audio].map(([hash, { sampleRate, channels }]) => ({
        ...long.get(hash),
        hash,
        sampleRate,
        channels: [...channels],
      })),
    }
  },

  /** All that this browser keeps as one file. */
  async exportEverything(): Promise<Blob> {
    const file = new Parts()
    await exportEverything((part) => file.add(part))
    return file.blob('application/zip')
  },

  /** Whether a zip file is such a one. */
  isArchive(file: Blob): Promise<boolean> {
    return isArchive(sourceOf(file))
  },

  /** Brings back what such a file holds. */
  async importEverything(file: Blob): Promise<BroughtBack> {
    // sounds come before the projects that use them: none is swept away meanwhile, here or by another tab
    const letGo = await removeForNow(() => Promise.resolve())
    try {
      return await importEverything(sourceOf(file), newId)
    } finally {
      letGo()
    }
  },

  /** Presets with their sounds as one file. */
  async writePack(name: string, presets: Preset[], sounds: Sound[]): Promise<Blob> {
    return new Blob([await writePack({ name, presets, audio: audioOf(sounds) })], { type: 'application/zip' })
  },

  /** Files as one zip, not compressed further. */
  async zipOf(files: { name: string; blob: Blob }[]): Promise<Blob> {
    const file = new Parts()
    const zip = new StoredZip((part) => file.add(part))
    for (const { name, blob } of files) await zip.add(name, sourceOf(blob))
    await zip.end()
    return file.blob('application/zip')
  },

  /** Whether a zip file is a pack. */
  isPack(file: Blob): Promise<boolean> {
    return isPack(sourceOf(file))
  },

  /** What a pack holds, and what of it could not be read. */
  async readPack(
    file: Blob,
  ): Promise<{ name: string; presets: Preset[]; sounds: Sound[]; refused: string[] }> {
    const { name, presets, audio, refused } = await readPack(sourceOf(file))
    const sounds = [...audio].map(([hash, { sampleRate, channels }]) => ({
      hash,
      sampleRate,
      channels: [...channels],
    }))
    return { name, presets: [...presets], sounds, refused: [...refused] }
  },
}
