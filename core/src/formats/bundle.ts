import {
  ERR_UNSAFE_FILENAME,
  type FileEntry,
  TextReader,
  Uint8ArrayReader,
  Uint8ArrayWriter,
  Writer,
  ZipReader,
  ZipWriter,
  configure,
} from '@zip.js/zip.js'
import type { AudioData } from '../contract/audio'
import { limits, sentenceOf } from '../limits'
import { readProject } from '../project/read'
import type { Project } from '../project/schema'
import { bytesOf } from './audio-file'
import { audioHash } from './hash'
import { atProjectRate, underTrueNames } from './sound-names'
import { readWav, writeWav } from './wav'

/** In Node, pages and workers alike; core knows of neither. */
declare const TextDecoder: new () => { decode(bytes: Uint8Array): string }

// heavy work has a thread of its own already
configure({ useWebWorkers: false })

/** A bundle that cannot be taken. The message is a sentence for a person. */
export class BundleError extends Error {
  override name = 'BundleError'
}

export interface Bundle {
  readonly project: Project
  readonly audio: ReadonlyMap<string, AudioData>
}

const PROJECT_FILE = 'project.json'
const audioFile = (hash: string): string => `audio/${hash}.wav`
/** So that the same project gives the same bytes. */
const MADE = new Date('2026-01-01T00:00:00')

/** Writes a project with its audio as one zip file: project.json, and audio/HASH.wav in 32-bit float. */
export async function writeBundle(bundle: Bundle): Promise<Uint8Array<ArrayBuffer>> {
  for (const [hash, ref] of Object.entries(bundle.project.audio))
    if (!bundle.audio.has(hash)) throw new BundleError(`The sound “${ref.name || hash}” is missing, so the bundle would not be whole.`)
  const { project, audio } = underTrueNames(bundle)
  const zip = new ZipWriter(new Uint8ArrayWriter(), { lastModDate: MADE, extendedTimestamp: false, dataDescriptor: false, keepOrder: true })
  await zip.add(PROJECT_FILE, new TextReader(JSON.stringify(project, null, 1)))
  for (const hash of Object.keys(project.audio)) {
    const sound = audio.get(hash) as AudioData
    await zip.add(audioFile(hash), new Uint8ArrayReader(writeWav({ sampleRate: sound.sampleRate, channels: [...sound.channels] }, 32)))
  }
  return (await zip.close()) as Uint8Array<ArrayBuffer>
}

/** Bytes that all that is wanted of a bundle may unpack to, and that its sounds may take as they are held here. */
export interface BundleLimits {
  readonly unpacked: number
  readonly samples: number
}

/**
 * Reads a bundle. Of its files only those that are wanted are unpacked, piece by piece, and counted as they come; checksums, overlaps
 * and two ways of reading the same file are looked for. Sounds are known by their content, whatever they are called, and come at the
 * rate of the project.
 * @throws BundleError, ProjectError, AudioFormatError
 */
export async function readBundle(
  file: Uint8Array,
  most: BundleLimits = { unpacked: limits.bundleUnpacked.most, samples: limits.bundleSamples.most },
): Promise<Bundle> {
  if (file.length < 4 || file[0] !== 0x50 || file[1] !== 0x4b) throw new BundleError('This is not a bundle: it is not a zip file.')
  const zip = new ZipReader(new Uint8ArrayReader(file), { strictness: 'strict', checkSignature: true, checkOverlappingEntry: true })
  let room = most.unpacked
  const take = async (entry: FileEntry): Promise<Uint8Array> => {
    if (entry.encrypted) throw new BundleError('This bundle is locked with a password, and cannot be opened.')
    return entry.getData(
      new Counted((bytes) => {
        room -= bytes
        if (room < 0) throw new BundleError(sentenceOf('bundleUnpacked', Math.round(most.unpacked / 1024 / 1024)))
      }),
    )
  }
  try {
    const entries = await wantedEntries(zip)
    const text = entries.get(PROJECT_FILE)
    if (!text)
      throw new BundleError(
        entries.size === 0
          ? 'This zip file is empty, so it is not a bundle.'
          : 'This zip file has no project.json in it, so it is not a bundle.',
      )
    const project = readProject(new TextDecoder().decode(await take(text)))
    const audio = new Map<string, AudioData>()
    let samples = most.samples
    for (const [hash, ref] of Object.entries(project.audio)) {
      const entry = entries.get(audioFile(hash))
      if (!entry) throw new BundleError(`The sound “${ref.name}” is missing from this bundle.`)
      const sound = readWav(await take(entry), samples)
      samples -= bytesOf(sound.channels[0]?.length ?? 0, sound.channels.length)
      if (audioHash(sound) !== hash)
        throw new BundleError(`The sound “${ref.name}” in this bundle is another than the one that the project names.`)
      audio.set(hash, sound)
    }
    return atProjectRate({ project, audio })
  } catch (error) {
    if (error instanceof Error && error.message === ERR_UNSAFE_FILENAME)
      throw new BundleError(forbidden(String((error as { filename?: unknown }).filename)))
    // what the package throws has no sentence for a person
    if (error instanceof Error && ['BundleError', 'ProjectError', 'AudioFormatError'].includes(error.name)) throw error
    throw new BundleError('This bundle is broken: it cannot be unpacked.')
  } finally {
    await zip.close()
  }
}

const forbidden = (name: string): string => `This bundle has a file with a forbidden name in it, “${name.slice(0, 80)}”.`

/** The files of a zip file by name, as far as they have names that a bundle may have. All are counted; one of another kind is left alone. */
async function wantedEntries(zip: ZipReader<unknown>): Promise<Map<string, FileEntry>> {
  const entries = new Map<string, FileEntry>()
  let count = 0
  for await (const entry of zip.getEntriesGenerator()) {
    const { filename } = entry
    if (filename.includes('..') || filename.startsWith('/') || filename.includes('\\') || filename.includes(':'))
      throw new BundleError(forbidden(filename))
    if (++count > limits.bundleEntries.most) throw new BundleError(sentenceOf('bundleEntries'))
    if (!entry.directory) entries.set(filename, entry)
  }
  return entries
}

/** Takes what is unpacked, and tells of each piece before it is kept. */
class Counted extends Writer<Uint8Array> {
  private readonly parts: Uint8Array[] = []
  constructor(private readonly tell: (bytes: number) => void) {
    super()
  }

  override writeUint8Array(part: Uint8Array): Promise<void> {
    this.tell(part.length)
    this.parts.push(part.slice())
    return Promise.resolve()
  }

  override getData(): Promise<Uint8Array> {
    const all = new Uint8Array(this.parts.reduce((sum, p) => sum + p.length, 0))
    let at = 0
    for (const part of this.parts) {
      all.set(part, at)
      at += part.length
    }
    return Promise.resolve(all)
  }
}
