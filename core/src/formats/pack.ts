import { TextReader, Uint8ArrayReader, ZipReader, ZipWriter, type FileEntry } from '@zip.js/zip.js'
import { z } from 'zod'
import type { AudioData } from '../contract/audio'
import { limits, sentenceOf } from '../limits'
import { type Preset, PresetError, readPreset } from '../project/preset'
import { type ByteSource, bytesInMemory } from './byte-asks'
import { audioHash } from './hash'
import { readWav, writeWav } from './wav'
import { BytesTold, SourceReader, joinedParts } from './zip-parts'

/** A pack that cannot be taken. The message is a sentence. */
export class PackError extends Error {
  override name = 'PackError'
}

/** Name of the file that says what a pack holds. */
export const PACK_FILE = 'oleaje-pack.json'
const PACK_VERSION = 1

/** The first file of a pack: its name, and its presets in their order by file. */
export const packSchema = z.object({
  format: z.literal('oleaje-pack'),
  version: z.literal(PACK_VERSION),
  name: z.string().max(120),
  presets: z.array(z.string().max(200)).max(1000),
})

export interface Pack {
  readonly name: string
  readonly presets: readonly Preset[]
  /** Sounds that the presets work with, by hash. */
  readonly audio: ReadonlyMap<string, AudioData>
}

/** In Node, pages and workers alike; core knows of neither. */
declare const TextDecoder: new () => { decode(bytes: Uint8Array): string }

const MADE = new Date('2026-01-01T00:00:00')
const audioFile = (hash: string): string => `audio/${hash}.wav`

/** File of a preset within a pack: readable, and not the same as another’s. */
const presetFile = (name: string, i: number): string =>
  `presets/${String(i + 1).padStart(3, '0')}-${name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .slice(0, 60)}.json`

/**
 * Writes presets as one zip file: a list, each preset as its own JSON, and the sounds that they work with in
 * 32-bit float. The same pack gives the same bytes.
 */
export async function writePack({ name, presets, audio }: Pack): Promise<Uint8Array<ArrayBuffer>> {
  const parts: Uint8Array[] = []
  const zip = new ZipWriter(
    new BytesTold((part) => {
      parts.push(part.slice())
    }),
    { lastModDate: MADE, extendedTimestamp: false, dataDescriptor: false, keepOrder: true },
  )
  const files = presets.map((p, i) => presetFile(p.name, i))
  const list: z.infer<typeof packSchema> = {
    format: 'oleaje-pack',
    version: PACK_VERSION,
    name,
    presets: files,
  }
  await zip.add(PACK_FILE, new TextReader(JSON.stringify(list, null, 1)))
  for (const [i, preset] of presets.entries())
    await zip.add(files[i] ?? '', new TextReader(JSON.stringify(preset, null, 1)))
  for (const hash of new Set(presets.flatMap((p) => Object.keys(p.audio)))) {
    const sound = audio.get(hash)
    if (!sound) throw new PackError(`A sound of “${name}” is missing, so the pack would be incomplete.`)
    const wav = writeWav({ sampleRate: sound.sampleRate, channels: [...sound.channels] }, 32)
    await zip.add(audioFile(hash), new Uint8ArrayReader(wav))
  }
  await zip.close()
  return joinedParts(parts)
}

/** Whether a zip file is a pack. */
export async function isPack(file: ByteSource): Promise<boolean> {
  const zip = new ZipReader(new SourceReader(file))
  try {
    for await (const entry of zip.getEntriesGenerator()) return entry.filename === PACK_FILE
    return false
  } catch {
    return false
  } finally {
    await zip.close()
  }
}

/** Reads a pack. A preset that cannot be read is named, and the others are taken. @throws PackError */
export async function readPack(
  file: Uint8Array | ByteSource,
): Promise<Pack & { readonly refused: readonly string[] }> {
  const source = file instanceof Uint8Array ? bytesInMemory(file) : file
  const zip = new ZipReader(new SourceReader(source), { checkSignature: true })
  let room: number = limits.bundleUnpacked.most
  const take = async (entry: FileEntry): Promise<Uint8Array> => {
    const parts: Uint8Array[] = []
    await entry.getData(
      new BytesTold((part) => {
        room -= part.length
        if (room < 0)
          throw new PackError(
            sentenceOf('bundleUnpacked', Math.round(limits.bundleUnpacked.most / 1024 / 1024)),
          )
        parts.push(part.slice())
      }),
    )
    return joinedParts(parts)
  }
  try {
    const entries = new Map<string, FileEntry>()
    for await (const entry of zip.getEntriesGenerator()) {
      if (entries.size >= limits.bundleEntries.most) throw new PackError(sentenceOf('bundleEntries'))
      if (!entry.directory) entries.set(entry.filename, entry)
    }
    const text = async (name: string): Promise<string | undefined> => {
      const entry = entries.get(name)
      return entry && new TextDecoder().decode(await take(entry))
    }
    const { name, presets: files } = listOf(await text(PACK_FILE))
    const presets: Preset[] = []
    const refused: string[] = []
    for (const at of files) {
      const found = await text(at)
      try {
        if (found === undefined) throw new PresetError('It is missing from the pack.')
        presets.push(readPreset(found))
      } catch (error) {
        if (!(error instanceof PresetError)) throw error
        refused.push(`${at.replace(/^presets\//, '')}: ${error.message}`)
      }
    }
    const audio = new Map<string, AudioData>()
    for (const hash of new Set(presets.flatMap((p) => Object.keys(p.audio)))) {
      const entry = entries.get(audioFile(hash))
      if (!entry) continue
      const sound = readWav(await take(entry))
      if ((await audioHash(sound)) === hash) audio.set(hash, sound)
    }
    return { name, presets, audio, refused }
  } catch (error) {
    if (error instanceof Error && ['PackError', 'AudioFormatError'].includes(error.name)) throw error
    throw new PackError('This pack is broken: it cannot be unpacked.')
  } finally {
    await zip.close()
  }
}

function listOf(text: string | undefined): z.infer<typeof packSchema> {
  let raw: unknown
  try {
    raw = JSON.parse(text ?? 'null')
  } catch {
    raw = null
  }
  const { version } = (raw ?? {}) as { version?: unknown }
  if (typeof version === 'number' && version > PACK_VERSION)
    throw new PackError(
      `This pack was made by a newer Oleaje (version ${version}); this version reads up to ${PACK_VERSION}.`,
    )
  const found = packSchema.safeParse(raw)
  if (!found.success) throw new PackError('This zip file is not a pack: its list of presets cannot be read.')
  return found.data
}
