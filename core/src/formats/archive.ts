import { Uint8ArrayReader, ZipReader, ZipWriter } from '@zip.js/zip.js'
import { limits, sentenceOf } from '../limits'
import type { ByteSource } from './byte-asks'
import { BytesTold, SourceReader, joinedParts } from './zip-parts'

/** An archive that cannot be taken. The message is a sentence. */
export class ArchiveError extends Error {
  override name = 'ArchiveError'
}

/** Name of the file that says what an archive is. */
export const ARCHIVE_FILE = 'oleaje-archive.json'
const VERSION = 1
const MADE = new Date('2026-01-01T00:00:00')

/** Takes the next part of a file, which is written over afterwards. */
export type ArchivedTake = (part: Uint8Array) => void | Promise<void>

/** One file of an archive; one that is long comes in parts. */
export interface ArchiveEntry {
  readonly name: string
  readonly bytes: Uint8Array | ByteSource
}

/**
 * Writes all that a browser keeps as one zip file. @param write takes the next bytes, which are written over
 * afterwards
 */
export async function packArchive(
  entries: AsyncIterable<ArchiveEntry>,
  write: (part: Uint8Array) => void,
): Promise<void> {
  const zip = new ZipWriter(new BytesTold(write), {
    lastModDate: MADE,
    extendedTimestamp: false,
    keepOrder: true,
    zip64: true,
  })
  const head = new TextEncoder().encode(JSON.stringify({ format: 'oleaje-archive', version: VERSION }))
  await zip.add(ARCHIVE_FILE, new Uint8ArrayReader(head))
  for await (const { name, bytes } of entries) {
    if (bytes instanceof Uint8Array) await zip.add(name, new Uint8ArrayReader(bytes))
    // noise does not compress, so it is stored
    else await zip.add(name, new SourceReader(bytes), { level: 0 })
  }
  await zip.close()
}

/** Whether a zip file is an archive of all that a browser keeps, and not a bundle. */
export async function isArchive(file: ByteSource): Promise<boolean> {
  const zip = new ZipReader(new SourceReader(file))
  try {
    for await (const entry of zip.getEntriesGenerator()) return entry.filename === ARCHIVE_FILE
    return false
  } catch {
    return false
  } finally {
    await zip.close()
  }
}

/**
 * Reads an archive, file after file in the order in which they lie in it.
 * @param each given the name of a file, and how to read it whole or in parts
 * @throws ArchiveError
 */
export async function readArchive(
  file: ByteSource,
  each: (name: string, read: (take: ArchivedTake) => Promise<void>) => Promise<void>,
): Promise<void> {
  const zip = new ZipReader(new SourceReader(file), { checkSignature: true })
  try {
    let first = true
    let room = limits.archive.most
    for await (const entry of zip.getEntriesGenerator()) {
      if (entry.directory) continue
      if (first && entry.filename !== ARCHIVE_FILE)
        throw new ArchiveError('This zip file is not an Oleaje archive.')
      const read = async (take: ArchivedTake): Promise<void> => {
        await entry.getData(
          new BytesTold((part) => {
            room -= part.length
            if (room < 0) throw new ArchiveError(sentenceOf('archive'))
            return take(part)
          }),
        )
      }
      if (first) {
        first = false
        const head = JSON.parse(new TextDecoder().decode(await wholeOf(read))) as {
          format?: unknown
          version?: unknown
        }
        if (head.format !== 'oleaje-archive' || head.version !== VERSION)
          throw new ArchiveError('This archive was made by another version of Oleaje and cannot be read.')
        continue
      }
      await each(entry.filename, read)
    }
    if (first) throw new ArchiveError('This zip file is empty, so it is not an Oleaje archive.')
  } catch (error) {
    if (error instanceof Error && error.name === 'ArchiveError') throw error
    throw new ArchiveError(
      `This archive is damaged and was read only up to this point: ${error instanceof Error ? error.message : String(error)}`,
    )
  } finally {
    await zip.close()
  }
}

/** All bytes of a file of an archive. */
export async function wholeOf(read: (take: ArchivedTake) => Promise<void>): Promise<Uint8Array<ArrayBuffer>> {
  const parts: Uint8Array[] = []
  await read((part) => {
    parts.push(part.slice())
  })
  return joinedParts(parts)
}

/** In Node, pages and workers alike; core knows of neither. */
declare const TextDecoder: new () => { decode(bytes: Uint8Array): string }
declare const TextEncoder: new () => { encode(text: string): Uint8Array }
