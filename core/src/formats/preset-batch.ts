import { type FileEntry, ZipReader } from '@zip.js/zip.js'
import { limits, sentenceOf } from '../limits'
import { type Preset, readPreset } from '../project/preset'
import { bytesInMemory } from './byte-asks'
import { BundleError } from './bundle'
import { audioFileNames } from './read-audio'
import { BytesTold, SourceReader, joinedParts } from './zip-parts'

// where core runs there is one
declare const TextDecoder: new () => { decode(bytes: Uint8Array): string }

/** Name of the preset in such a file. */
export const BATCH_PRESET = 'preset.json'

/** A zip file with a preset and the sounds that are to go through it. */
export interface PresetBatch {
  readonly preset: Preset
  readonly sounds: readonly {
    readonly name: string
    /** Unpacks the bytes of the file. @throws BundleError past a limit */
    readonly read: () => Promise<Uint8Array>
  }[]
}

/**
 * Opens a zip file of a preset and sounds; null where it holds no preset and so is something else. Nothing of
 * the sounds is unpacked before it is asked for.
 * @param most bytes that one of its files may unpack to
 * @throws BundleError, PresetError
 */
export async function readPresetBatch(file: Uint8Array, most: number): Promise<PresetBatch | null> {
  const zip = new ZipReader(new SourceReader(bytesInMemory(file)), { checkSignature: true })
  const entries: FileEntry[] = []
  try {
    for await (const entry of zip.getEntriesGenerator()) {
      if (entries.length >= limits.bundleEntries.most) throw new BundleError(sentenceOf('bundleEntries'))
      if (!entry.directory) entries.push(entry)
    }
  } catch (error) {
    if (error instanceof BundleError) throw error
    return null
  }
  const preset = entries.find((e) => e.filename === BATCH_PRESET)
  if (!preset) return null
  const read = async (entry: FileEntry): Promise<Uint8Array> => {
    const parts: Uint8Array[] = []
    let room = most
    await entry.getData(
      new BytesTold((part) => {
        room -= part.length
        if (room < 0) throw new BundleError(sentenceOf('requestUnpacked', Math.round(most / 1024 / 1024)))
        parts.push(part.slice())
      }),
    )
    return joinedParts(parts)
  }
  const sounds = entries.filter((e) => audioFileNames.test(e.filename))
  if (sounds.length === 0)
    throw new BundleError('The zip file has a preset and no sounds. Add WAV, AIFF, FLAC, MP3 or Ogg files.')
  return {
    preset: readPreset(new TextDecoder().decode(await read(preset))),
    sounds: sounds.map((entry) => ({ name: entry.filename, read: () => read(entry) })),
  }
}
