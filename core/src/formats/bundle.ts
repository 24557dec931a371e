import {
  ERR_UNSAFE_FILENAME,
  type FileEntry,
  Reader,
  TextReader,
  Uint8ArrayReader,
  ZipReader,
  ZipWriter,
} from '@zip.js/zip.js'
import { type AudioData, framesOf } from '../contract/audio'
import { PIECE_FRAMES } from '../dsp/audio-pieces'
import { limits, sentenceOf } from '../limits'
import { readProject } from '../project/read'
import type { Project } from '../project/schema'
import { bytesOf } from './audio-file'
import { type ByteSource, bytesInMemory } from './byte-asks'
import { BytesTold, SourceReader, joinedParts } from './zip-parts'
import { formerNames, isFormerName } from './former-hash'
import { audioHash } from './hash'
import { atProjectRate, underTrueNames } from './sound-names'
import { HEADER_BYTES, WavEncoder, readWav, wavHeader, writeWav } from './wav'

/** In Node, pages and workers alike; core knows of neither. */
declare const TextDecoder: new () => { decode(bytes: Uint8Array): string }

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

/** Files within a bundle that are larger are not read whole, where there is somewhere to put them. */
const LARGE = 64 * 1024 * 1024

/** A bundle in memory; see {@link packBundle}. */
export async function writeBundle(bundle: Bundle): Promise<Uint8Array<ArrayBuffer>> {
  const parts: Uint8Array[] = []
  await packBundle(bundle, (part) => {
    parts.push(part.slice())
  })
  return joinedParts(parts)
}

/**
 * Writes a project with its audio as one zip file: project.json, and audio/HASH.wav in 32-bit float.
 * @param write takes the next bytes of the file; they are written over afterwards
 */
export async function packBundle(bundle: Bundle, write: (part: Uint8Array) => void): Promise<void> {
  for (const [hash, ref] of Object.entries(bundle.project.audio))
    if (!bundle.audio.has(hash))
      throw new BundleError(`The sound “${ref.name || hash}” is missing, so the bundle would be incomplete.`)
  const { project, audio } = await underTrueNames(bundle)
  const zip = new ZipWriter(new BytesTold(write), {
    lastModDate: MADE,
    extendedTimestamp: false,
    dataDescriptor: false,
    keepOrder: true,
  })
  await zip.add(PROJECT_FILE, new TextReader(JSON.stringify(project, null, 1)))
  for (const hash of Object.keys(project.audio)) {
    const sound = audio.get(hash) as AudioData
    // a long sound is written as it is read, without compression, and its size follows it
    if (sound.pieces)
      await zip.add(audioFile(hash), new PieceReader(sound), { level: 0, dataDescriptor: true })
    else
      await zip.add(
        audioFile(hash),
        new Uint8ArrayReader(writeWav({ sampleRate: sound.sampleRate, channels: [...sound.channels] }, 32)),
      )
  }
  await zip.close()
}

/** Somewhere to put a sound that is too large to be read whole. */
export interface LargeSound {
  /** Takes the next bytes of its file, which are written over afterwards. */
  write(part: Uint8Array): void
  /** The sound that these are, its name by its content, and the one that it had in older bundles. */
  end(): Promise<{ readonly hash: string; readonly formerHash?: string; readonly sound: AudioData }>
}

/**
 * Bytes that all that is wanted of a bundle may unpack to, and that its sounds may take as they are held
 * here.
 */
export interface BundleLimits {
  readonly unpacked: number
  readonly samples: number
}

/**
 * Reads a bundle. Of its files only those that are wanted are unpacked, piece by piece, and counted as they
 * come; checksums, overlaps and two ways of reading the same file are looked for. Sounds are known by their
 * content, whatever they are called, and come at the rate of the project.
 * @param large opens a place for a sound that is large; without it all are read whole
 * @throws BundleError, ProjectError, AudioFormatError
 */
export async function readBundle(
  file: Uint8Array | ByteSource,
  most: BundleLimits = { unpacked: limits.bundleUnpacked.most, samples: limits.bundleSamples.most },
  large?: () => LargeSound,
): Promise<Bundle> {
  const source = file instanceof Uint8Array ? bytesInMemory(file) : file
  const head = await source.read(0, Math.min(4, source.size))
  if (head.length < 4 || head[0] !== 0x50 || head[1] !== 0x4b)
    throw new BundleError('This is not a bundle: it is not a zip file.')
  const zip = new ZipReader(new SourceReader(source), {
    strictness: 'strict',
    checkSignature: true,
    checkOverlappingEntry: true,
  })
  let room = most.unpacked
  const take = async (entry: FileEntry): Promise<Uint8Array> => {
    if (entry.encrypted) throw new BundleError('This bundle is protected by a password and cannot be opened.')
    const parts: Uint8Array[] = []
    await entry.getData(
      new BytesTold((part) => {
        room -= part.length
        if (room < 0)
          throw new BundleError(sentenceOf('bundleUnpacked', Math.round(most.unpacked / 1024 / 1024)))
        parts.push(part.slice())
      }),
    )
    return joinedParts(parts)
  }
  let largeRoom = limits.bundleLarge.most
  const takeLarge = async (entry: FileEntry, open: () => LargeSound): ReturnType<LargeSound['end']> => {
    const place = open()
    await entry.getData(
      new BytesTold((part) => {
        largeRoom -= part.length
        if (largeRoom < 0) throw new BundleError(sentenceOf('bundleLarge'))
        place.write(part)
      }),
    )
    return place.end()
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
    // a bundle from before sounds were told apart by all of their content names them in the former way
    const names = new Map<string, string>()
    let samples = most.samples
    for (const [hash, ref] of Object.entries(project.audio)) {
      const entry = entries.get(audioFile(hash))
      if (!entry) throw new BundleError(`The sound “${ref.name}” is missing from this bundle.`)
      const found = large && entry.uncompressedSize > LARGE ? await takeLarge(entry, large) : undefined
      if (found && (found.hash === hash || found.formerHash === hash)) {
        names.set(hash, found.hash)
        audio.set(hash, found.sound)
        continue
      }
      const sound = readWav(await take(entry), samples)
      samples -= bytesOf(sound.channels[0]?.length ?? 0, sound.channels.length)
      const name = await audioHash(sound)
      if (name !== hash && !(isFormerName(hash) && formerNames(sound).includes(hash)))
        throw new BundleError(`The sound “${ref.name}” in this bundle does not match the project.`)
      names.set(hash, name)
      audio.set(hash, sound)
    }
    return await atProjectRate(await underTrueNames({ project, audio }, names))
  } catch (error) {
    if (error instanceof Error && error.message === ERR_UNSAFE_FILENAME)
      throw new BundleError(forbidden(String((error as { filename?: unknown }).filename)))
    // what the package throws has no sentence for a person
    if (error instanceof Error && ['BundleError', 'ProjectError', 'AudioFormatError'].includes(error.name))
      throw error
    throw new BundleError('This bundle is broken: it cannot be unpacked.')
  } finally {
    await zip.close()
  }
}

const forbidden = (name: string): string =>
  `This bundle has a file with a forbidden name in it, “${name.slice(0, 80)}”.`

/**
 * The files of a zip file by name, as far as they have names that a bundle may have. All are counted; one of
 * another kind is left alone.
 */
async function wantedEntries(zip: ZipReader<unknown>): Promise<Map<string, FileEntry>> {
  const entries = new Map<string, FileEntry>()
  let count = 0
  for await (const entry of zip.getEntriesGenerator()) {
    const { filename } = entry
    if (
      filename.includes('..') ||
      filename.startsWith('/') ||
      filename.includes('\\') ||
      filename.includes(':')
    )
      throw new BundleError(forbidden(filename))
    if (++count > limits.bundleEntries.most) throw new BundleError(sentenceOf('bundleEntries'))
    if (!entry.directory) entries.set(filename, entry)
  }
  return entries
}

/** A long sound as the WAV file that it becomes, made as it is read from beginning to end. */
class PieceReader extends Reader<AudioData> {
  private readonly header: Uint8Array
  private readonly frameBytes: number
  private readonly encoder = new WavEncoder(32)
  private at = -1
  private bytes: Uint8Array = new Uint8Array(0)

  constructor(private readonly sound: AudioData) {
    super(sound)
    const channels = sound.pieces?.channelCount ?? 1
    this.header = wavHeader({ channels, sampleRate: sound.sampleRate, depth: 32, frames: framesOf(sound) })
    this.frameBytes = 4 * channels
    this.size = HEADER_BYTES + framesOf(sound) * this.frameBytes
  }

  override readUint8Array(index: number, length: number): Promise<Uint8Array> {
    const out = new Uint8Array(Math.max(0, Math.min(length, this.size - index)))
    for (let i = 0; i < out.length;) {
      const place = index + i - HEADER_BYTES
      const part =
        place < 0
          ? this.header.subarray(index + i)
          : this.piece(Math.floor(place / (PIECE_FRAMES * this.frameBytes))).subarray(
              place % (PIECE_FRAMES * this.frameBytes),
            )
      out.set(part.subarray(0, out.length - i), i)
      i += part.length
    }
    return Promise.resolve(out)
  }

  private piece(n: number): Uint8Array {
    if (n !== this.at) this.bytes = this.encoder.encode(this.sound.pieces?.piece(n) ?? [])
    this.at = n
    return this.bytes
  }
}
